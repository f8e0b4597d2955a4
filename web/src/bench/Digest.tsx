import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { useDeed } from "../shell/useDeed";
import { measuredIn, readsIn, saidIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import { asTrial } from "./draft";
import { trustWords } from "./trust";
import type { BenchProps } from "./types";

type Props = Pick<BenchProps, "bench" | "recording" | "range" | "atS" | "look" | "sensor" | "draft">;

/** What a recording comes to in a few figures: all that is in view, and every lap of it. */
export function Digest({ bench, recording, range, atS, look, sensor, draft }: Props) {
  const [open, setOpen] = useState(false);
  const units = useUnits();
  const deed = useDeed();
  const kind = bench.digests[0];
  const path = { recording_id: recording?.id ?? 0, name: kind?.name ?? "" };
  const query = { from_s: range?.[0] ?? null, to_s: range?.[1] ?? null };
  const request = { ...query, draft: asTrial(draft) };
  const found = useQuery({
    queryKey: ["digest", path, request],
    enabled: open && kind !== undefined && recording !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(client.POST("/api/recordings/{recording_id}/digests/{name}", { params: { path }, body: request })),
  });
  if (!kind || !recording) return null;
  const digest = found.data;
  const figures = digest?.stretches[0]?.figures ?? [];
  const trust = trustWords(sensor.stones.find((stone) => stone.stage === "calibrated") ?? null);
  const at = atS ?? look?.outputs[0]?.at_s ?? null;
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
      {digest && (
        <>
          <div className="digest">
            <table className="mark-table">
              <thead>
                <tr>
                  <th scope="col">{range ? "in view" : "all of it"}</th>
                  {figures.map((one) => (
                    <th key={one.name} scope="col" className="figure" title={one.how}>
                      {one.label} <small>{readsIn(units, one.shown).unit}</small>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {digest.stretches.map((stretch) => (
                  <tr key={stretch.lap}>
                    <th scope="row">
                      {stretch.lap
                        ? `lap ${stretch.lap}`
                        : `${grouped(stretch.from_s, 1)} to ${grouped(stretch.to_s, 1)} s`}
                    </th>
                    {stretch.figures.map((one) => (
                      <td key={one.name} className="figure">
                        {shownIn(one)[0]}
                        <small>{shownIn(one)[1]}</small>
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {trust && <p className="trust-words">{trust}</p>}
          <p className="quiet">{figures.map((one) => `${one.label}: ${one.how}`).join("; ")}.</p>
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

  function shownIn(one: (typeof figures)[number]): [string, string] {
    const reads = readsIn(units, one.shown);
    if (one.value === null) return ["–", ""];
    if (one.u === null) return [saidIn(reads, one.value, 1).replace(` ${reads.unit}`, ""), ""];
    const [value, spread] = measuredIn(reads, one.value, 2 * one.u);
    return [value, `± ${spread}`];
  }
}
