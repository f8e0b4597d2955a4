import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { type Schemas, body, client } from "../api/client";
import { useDeed } from "../shell/useDeed";
import { grouped } from "../units/units";
import type { Bench } from "../api/queries";
import { FiguresAcross, FiguresDown } from "./DigestTables";
import { MarkTrue } from "./MarkTrue";
import { asTrial } from "./draft";
import { trustWords } from "./trust";
import type { BenchProps } from "./types";

type DigestOut = Schemas["DigestOut"];
type Figure = DigestOut["stretches"][number]["figures"][number];
const MOST_ACROSS = 7;

type Kind = Bench["digests"][number];
type Props = Pick<BenchProps, "bench" | "recording" | "range" | "atS" | "look" | "sensor" | "draft" | "setDraft">;

/** What a recording comes to, in every way its kind sums it up. */
export function Digests(props: Props) {
  return props.bench.digests.map((kind) => <Digest key={kind.name} {...props} kind={kind} />);
}

/** A few figures: of all that is in view, and of every lap of it. */
function Digest({ kind, recording, range, atS, look, sensor, draft, setDraft }: Props & { kind: Kind }) {
  const [open, setOpen] = useState(false);
  const [beside, setBeside] = useState<number | null>(null);
  const deed = useDeed();
  const path = { recording_id: recording?.id ?? 0, name: kind.name };
  const query = { from_s: range?.[0] ?? null, to_s: range?.[1] ?? null, beside };
  const request = { ...query, draft: asTrial(draft) };
  const found = useQuery({
    queryKey: ["digest", path, request],
    enabled: open && recording !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(client.POST("/api/recordings/{recording_id}/digests/{name}", { params: { path }, body: request })),
  });
  if (!recording) return null;
  const digest = found.data;
  const figures = digest?.stretches[0]?.figures ?? [];
  const head = range ? "in view" : "all of it";
  const trust = !kind.is_calibrated
    ? ""
    : trustWords(sensor.stones.find((stone) => stone.stage === "calibrated") ?? null);
  const at = atS ?? look?.outputs[0]?.at_s ?? null;
  const now = draft.parameters ?? sensor.parameters;
  const onTry = (sets: Figure["sets"]) => setDraft({ parameters: { ...now, ...sets } });
  const endLap = () =>
    at !== null &&
    digest &&
    deed(
      () =>
        body(
          client.POST("/api/takes/{take_id}/marks", {
            params: { path: { take_id: recording.take_id } },
            body: { name: digest.lap_note, start_s: at, end_s: at },
          }),
        ),
      `A lap ends at ${grouped(at, 1)} s.`,
      (mark) => body(client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: mark.id } } })),
    );
  const window = Object.entries(query)
    .filter(([, value]) => value !== null)
    .map(([name, value]) => `${name}=${value}`)
    .join("&");
  return (
    <details className="more-fields held-against" open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>{kind.label}</summary>
      {found.isError && <p className="field-problem">{found.error.message}</p>}
      {digest && digest.stretches.length === 0 && (
        <p className="bench-note">
          Nothing else was recorded in this take that it can be held against. Record both at once.
        </p>
      )}
      {digest && digest.stretches.length > 0 && (
        <>
          {digest.others.length > 0 && <Beside digest={digest} onChoose={setBeside} />}
          <div className="digest">
            {figures.length > MOST_ACROSS ? (
              <FiguresDown digest={digest} head={head} now={now} onTry={onTry} />
            ) : (
              <FiguresAcross digest={digest} head={head} />
            )}
          </div>
          <Feeds figures={figures} />
          {kind.marks.length > 0 && <MarkTrue kind={kind} recording={recording} range={range} at={at} />}
          {trust && <p className="trust-words">{trust}</p>}
          {figures.length <= MOST_ACROSS && (
            <p className="quiet">{figures.map((one) => `${one.label}: ${one.how}`).join("; ")}.</p>
          )}
          <p className="empty-actions">
            <Button size="sm" variant="outline-primary" disabled={at === null} onClick={() => void endLap()}>
              End a lap at the reading in hand
            </Button>
            <a
              className="btn btn-sm btn-outline-primary"
              href={`/api/recordings/${recording.id}/digests/${kind.name}/csv${window && `?${window}`}`}
              download
            >
              CSV
            </a>
          </p>
        </>
      )}
    </details>
  );
}

/** Decisions elsewhere on the rig that a figure answers a question of: it is put in there by one press. */
function Feeds({ figures }: { figures: Figure[] }) {
  return figures
    .filter((one) => one.feeds.length > 0 && one.value !== null)
    .map((one) => (
      <p key={one.name} className="bench-note">
        Put this {one.label} into{" "}
        {one.feeds.map((feed, place) => {
          const query = new URLSearchParams({ rule: feed.rule, [feed.input]: String(one.value) });
          if (feed.u_input && one.u !== null) query.set(feed.u_input, String(one.u));
          return (
            <span key={`${feed.sensor_id} ${feed.rule}`}>
              {place > 0 && ", "}
              <Link to={`/sensors/${feed.sensor_id}/tuned?${query.toString()}`}>
                {feed.sensor}: {feed.label.toLowerCase()}
              </Link>
            </span>
          );
        })}
        .
      </p>
    ));
}

/** Which other sensor it is held against. */
function Beside({ digest, onChoose }: { digest: DigestOut; onChoose: (recording: number) => void }) {
  return (
    <label className="digest-beside">
      The other is
      <Form.Select
        size="sm"
        value={digest.beside ?? ""}
        onChange={(event) => onChoose(Number(event.target.value))}
        aria-label="Held against"
      >
        {digest.others.map((one) => (
          <option key={one.recording_id} value={one.recording_id}>
            {one.sensor}
          </option>
        ))}
      </Form.Select>
    </label>
  );
}
