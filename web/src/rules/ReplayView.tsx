import { type ReactNode, useEffect, useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { useDeed } from "../shell/useDeed";
import { day } from "../units/dates";
import { grouped } from "../units/units";
import { ConfusionTable } from "./ConfusionTable";
import { SawPanel } from "./SawPanel";
import { StayTable } from "./StayTable";
import { StateStrips } from "./StateStrips";
import { type RulesBench, useReplay, useSaw } from "./queries";
import type { Rules } from "./rules";

interface Props {
  rigId: number;
  rules: Rules;
  bench: RulesBench;
  /** Says which state it is in at the time in hand. */
  onNow: (state: string | null) => void;
}

const LETTERS = ["A", "B", "C", "D"];

/** The rules over a recording: what each state saw, and how two versions differ. */
export function ReplayView({ rigId, rules, bench, onNow }: Props) {
  const sensors = useMemo(
    () => new Set(rules.inputs.flatMap((one) => (one.sensor ? [Number(one.sensor)] : []))),
    [rules.inputs],
  );
  const fits = (take: RulesBench["takes"][number]) => [...sensors].every((one) => take.sensors.includes(one));
  const [takeId, setTakeId] = useState(() => (bench.takes.find(fits) ?? bench.takes[0])?.id ?? 0);
  const [against, setAgainst] = useState<number[]>([]);
  const [range, setRange] = useState<[number, number] | null>(null);
  const [atS, setAtS] = useState<number | null>(null);
  const [stretch, setStretch] = useState<[number, number] | null>(null);
  const others = against.flatMap((id) => {
    const kept = bench.kept.find((one) => one.id === id);
    return kept ? [kept.document as unknown as Rules] : [];
  });
  const told = useReplay(rigId, takeId, [rules, ...others], range);
  const saw = useSaw(rigId, takeId, told.data?.versions[0]?.error === "" ? rules : null, atS);
  const deed = useDeed();
  const now = atS === null ? null : (saw.data?.state ?? null);
  useEffect(() => onNow(now), [now, onNow]);
  if (bench.takes.length === 0) {
    return (
      <Empty title="There is no recording to replay.">
        <p>Record a run on the line, or bring in a log; then see what the rules would have done.</p>
      </Empty>
    );
  }
  const take = bench.takes.find((one) => one.id === takeId);

  function markTruth(state: string) {
    if (!stretch || !take) return;
    const [start_s, end_s] = stretch;
    const path = { take_id: take.id };
    void deed(
      () =>
        body(
          client.POST("/api/takes/{take_id}/marks", {
            params: { path },
            body: { name: state, start_s, end_s, calibration: "", pose: "", unit: "" },
          }),
        ),
      `${state} would have been right from ${grouped(start_s, 1)} to ${grouped(end_s, 1)} s.`,
      (mark) => body(client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: mark.id } } })),
    );
    setStretch(null);
  }

  return (
    <div className="replay">
      <div className="replay-head">
        <label>
          Over
          <select
            className="form-select form-select-sm"
            value={takeId}
            onChange={(event) => {
              setTakeId(Number(event.target.value));
              setRange(null);
              setAtS(null);
              setStretch(null);
            }}
          >
            {bench.takes.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name} · {day(one.recorded_at)}
                {fits(one) ? "" : " · holds not all of it"}
              </option>
            ))}
          </select>
        </label>
        <label>
          beside
          <select
            className="form-select form-select-sm"
            value=""
            onChange={(event) => setAgainst([...against, Number(event.target.value)].slice(-3))}
          >
            <option value="">a version that was kept…</option>
            {bench.kept
              .filter((one) => !against.includes(one.id))
              .map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name} of {day(one.made_at)}
                  {one.note ? `: ${one.note}` : ""}
                </option>
              ))}
          </select>
        </label>
        {range && (
          <Button size="sm" variant="outline-primary" onClick={() => setRange(null)}>
            All of it
          </Button>
        )}
      </div>
      {told.isError && <Trouble error={told.error} retry={() => void told.refetch()} />}
      {!told.data && !told.isError && <Skeleton lines={8} />}
      {told.data && (
        <>
          <StateStrips
            told={told.data}
            atS={atS}
            stretch={stretch}
            onAt={setAtS}
            onStretch={setStretch}
            onRemove={(place) => setAgainst(against.filter((_, n) => n !== place - 1))}
            names={[rules, ...others].map(
              (_, place) =>
                `${LETTERS[place]} ${place === 0 ? "as it stands" : versionSaid(bench, against[place - 1])}`,
            )}
          />
          <StretchBar
            stretch={stretch}
            states={rules.states.map((one) => one.name)}
            onZoom={() => {
              setRange(stretch);
              setStretch(null);
            }}
            onMark={markTruth}
          >
            {told.data.truths.length === 0
              ? "Nothing is marked as true here: drag over a stretch and say which state would have been right."
              : "Press into the strips for what it saw; drag over a stretch to zoom, or to mark what would be right."}
          </StretchBar>
          {atS !== null && saw.data && <SawPanel saw={saw.data} />}
          {saw.isError && atS !== null && <Trouble error={saw.error} />}
          <StayTable versions={told.data.versions} letters={LETTERS} />
          <ConfusionTable
            versions={told.data.versions}
            letters={LETTERS}
            onGo={(from, to) => {
              const spare = Math.max(1, (to - from) * 0.6);
              setRange([Math.max(0, from - spare), Math.min(told.data.duration_s, to + spare)]);
              setAtS(from);
            }}
          />
        </>
      )}
    </div>
  );
}

function versionSaid(bench: RulesBench, id: number | undefined): string {
  const kept = bench.kept.find((one) => one.id === id);
  return kept ? `of ${day(kept.made_at)}` : "";
}

interface BarProps {
  stretch: [number, number] | null;
  states: string[];
  onZoom: () => void;
  onMark: (state: string) => void;
  children: ReactNode;
}

/** What can be done with a stretch; what to do while there is none. */
function StretchBar({ stretch, states, onZoom, onMark, children }: BarProps) {
  if (!stretch) return <p className="quiet stretch-bar">{children}</p>;
  return (
    <div className="stretch-bar">
      <span>
        {grouped(stretch[0], 2)} to {grouped(stretch[1], 2)} s
      </span>
      <Button size="sm" variant="outline-primary" onClick={onZoom}>
        Look closer
      </Button>
      <span>Right would have been</span>
      {states.map((state) => (
        <Button key={state} size="sm" variant="outline-primary" onClick={() => onMark(state)}>
          {state}
        </Button>
      ))}
    </div>
  );
}
