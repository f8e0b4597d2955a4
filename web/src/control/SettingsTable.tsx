import { Fragment, useState } from "react";
import Button from "react-bootstrap/Button";
import { InputField } from "../units/InputField";
import { type Reads, useReads } from "../units/shown";
import { grouped } from "../units/units";
import { GainKnob } from "./GainKnob";
import { LOOKS } from "./LoopPlot";
import type { ControlBench, RunOut, Runs, Values } from "./queries";

interface Props {
  settings: Values[];
  runs: Runs;
  inputs: ControlBench["controller"];
  held: number;
  onHold: (place: number) => void;
  onChange: (place: number, next: Values) => void;
  onAdd: (() => void) | null;
  onRemove: (place: number) => void;
}

const NAMES = "ABCD";
const COLOURS = ["--ts-accent", "--ts-ticked", "--ts-stale", "--ts-failing"];
const GAINS = ["kp", "ki", "kd"];

/** Settings one below the other: P, I and D by hand, and what each of them made of it. */
export function SettingsTable({ settings, runs, inputs, held, onHold, onChange, onAdd, onRemove }: Props) {
  const [isMore, setMore] = useState(false);
  const reads = useReads(runs.measured.small);
  const out = useReads(runs.steered.shown);
  const inHand = settings[held] ?? {};
  const others = inputs.filter((one) => !GAINS.includes(one.name));
  return (
    <>
      <div className="settings-holder">
        <table className="mark-table settings-table">
          <thead>
            <tr>
              <th scope="col">
                <span className="visually-hidden">Setting</span>
              </th>
              {inputs
                .filter((one) => GAINS.includes(one.name))
                .map((one) => (
                  <th key={one.name} scope="col" title={one.help}>
                    {one.label}
                  </th>
                ))}
              <th scope="col" className="figure" title="Beyond the target, of the step">
                over
              </th>
              <th scope="col" className="figure" title="Until it stays within 2 % of the step">
                settles, s
              </th>
              <th scope="col" className="figure" title="What is left at the end">
                left, {reads.unit || "–"}
              </th>
              <th scope="col" className="figure" title="Error by time, added up: late errors count more">
                ITAE
              </th>
              <th scope="col" className="figure" title="How far the actuator went to and fro, and its scatter at rest">
                travel
                <span className="figure-below">noise, {out.unit || "–"}</span>
              </th>
              <th
                scope="col"
                className="figure"
                title="P, I and D together may be so many times as large; so much more dead time is borne"
              >
                bears
                <span className="figure-below">and delay</span>
              </th>
              <th scope="col">
                <span className="visually-hidden">change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {settings.map((one, place) => {
              const run = runs.runs[place];
              return (
                <Fragment key={place}>
                  <tr className={place === held ? "is-held" : ""} onFocus={() => onHold(place)}>
                    <th scope="row">
                      <button
                        type="button"
                        className="setting-name"
                        aria-pressed={place === held}
                        onClick={() => onHold(place)}
                      >
                        <span
                          className="swatch"
                          style={{
                            borderTop: `3px ${LOOKS[place + 1] ?? "solid"} var(${COLOURS[place] ?? "--ts-ink"})`,
                          }}
                        />
                        {NAMES[place]}
                      </button>
                    </th>
                    {GAINS.map((name) => (
                      <td key={name}>
                        <GainKnob
                          label={`${name[1]?.toUpperCase() ?? name} of ${NAMES[place]}`}
                          value={Number(one[name] ?? 0)}
                          onChange={(value) => onChange(place, { ...one, [name]: value })}
                        />
                      </td>
                    ))}
                    {run ? <Judged run={run} reads={reads} out={out} /> : <td colSpan={6} />}
                    <td>
                      {settings.length > 1 && (
                        <Button
                          size="sm"
                          variant="outline-danger"
                          aria-label={`Take out ${NAMES[place]}`}
                          onClick={() => onRemove(place)}
                        >
                          ×
                        </Button>
                      )}
                    </td>
                  </tr>
                  {run && run.says.length > 0 && (
                    <tr className="settings-says">
                      <td />
                      <td colSpan={10}>{run.says.join(" ")}</td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
          </tbody>
        </table>
      </div>
      <div className="picture-foot">
        <Button size="sm" variant="outline-primary" disabled={!onAdd} onClick={() => onAdd?.()}>
          Another beside {NAMES[held]}
        </Button>
        <button type="button" className="fold" aria-expanded={isMore} onClick={() => setMore(!isMore)}>
          Ends, wind-up, smoothing and what is no reading, of {NAMES[held]}
        </button>
      </div>
      {isMore && (
        <div className="control-fields is-wide">
          {others.map((one) => (
            <InputField
              key={one.name}
              input={["low", "high", "rest"].includes(one.name) ? { ...one, shown: runs.steered.shown } : one}
              value={inHand[one.name] ?? null}
              onChange={(value) => onChange(held, { ...inHand, [one.name]: value })}
            />
          ))}
        </div>
      )}
    </>
  );
}

/** How one of them did. */
function Judged({ run, reads, out }: { run: RunOut; reads: Reads; out: Reads }) {
  const told = run.measures;
  const figure = (value: number | null | undefined, decimals: number, from: (si: number) => number = (si) => si) =>
    value == null ? "–" : grouped(from(value), decimals);
  if (!told) {
    return (
      <td colSpan={6} className="quiet">
        {run.why_not}
      </td>
    );
  }
  const { margins } = run;
  return (
    <>
      <td className="figure">{told.overshoot === null ? "–" : `${grouped(100 * told.overshoot, 0)} %`}</td>
      <td className="figure">{told.settling_s === null ? "never" : grouped(told.settling_s, 2)}</td>
      <td className="figure">{figure(told.offset, reads.decimals, reads.step)}</td>
      <td className="figure">{told.itae === null ? "–" : short(told.itae)}</td>
      <td className="figure">
        {told.travel === null ? "–" : short(out.step(told.travel))}
        <span className="figure-below">{told.noise_out === null ? "–" : short(out.step(told.noise_out))}</span>
      </td>
      <td className={`figure ${margins.is_stable ? "" : "is-unstable"}`}>
        {margins.is_stable ? (
          <>
            {orEver(margins.gain, 1)} ×<span className="figure-below">{orEver(margins.delay_s, 0, 1000)} ms</span>
          </>
        ) : (
          "not stable"
        )}
      </td>
    </>
  );
}

/** A figure, or that there is no end to it. */
const orEver = (value: number | null, decimals: number, scale = 1) =>
  value === null ? "∞" : grouped(scale * value, decimals);

/** Three figures. */
function short(value: number): string {
  const size = Math.abs(value);
  return grouped(value, size >= 100 ? 0 : size >= 10 ? 1 : size >= 1 ? 2 : 3);
}
