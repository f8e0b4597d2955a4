import { useState } from "react";
import type { Schemas } from "../../api/client";
import { HeapColumns } from "../../heaps/HeapColumns";
import { misreadBy } from "../../heaps/shape";
import { type Reads, readsIn, saidIn } from "../../units/shown";
import { grouped, useUnits } from "../../units/units";

type Lane = Schemas["LaneThresholdOut"];
type Misread = Schemas["MisreadOut"];

interface Props {
  lanes: Lane[];
  elsewhere: Schemas["ElsewhereOut"][];
  /** The thresholds in hand, which the lanes follow a moment later; null for what the lanes say. */
  tried: { at: number[]; half: number[] } | null;
  /** A threshold was moved: shares of the way from black to white, and half the band, of every lane. */
  onMove: (at: number[], half: number[]) => void;
}

const share = (lane: Lane, at: number) => (at - lane.black) / lane.per_share;
const LEAST = 0.01;

/** The thresholds on the heaps they were chosen on: drag one, and see what it misreads, and what others would. */
export function LaneThresholds({ lanes, elsewhere, tried, onMove }: Props) {
  const [place, setPlace] = useState(0);
  const units = useUnits();
  const lane = lanes[place] ?? lanes[0];
  if (!lane) return null;
  const inHand = lanes.map((one, n) => lineOf(one, n, tried));

  function move(moved: number, at: number) {
    const shares = lanes.map((one, n) =>
      n === moved ? Math.min(1 - LEAST, Math.max(LEAST, share(one, at))) : share(one, inHand[n]?.at ?? one.at),
    );
    onMove(
      shares,
      lanes.map((one, n) => (inHand[n]?.half ?? one.half) / Math.abs(one.per_share)),
    );
  }

  return (
    <section className="heaps in-a-sheet" aria-label="Thresholds on their heaps">
      <HeapColumns
        lanes={lanes.map((one) => one.heaps)}
        lines={inHand}
        under={(one, n) => misreadShort(lanes[n], misreadBy(one.dark, one.light, inHand[n]?.at ?? 0))}
        isBad={(n) => Boolean(lanes[n]?.why_not) || (lanes[n]?.misread.rate ?? 0) > 0.02}
        onLine={move}
        chosen={lanes.indexOf(lane)}
        onChoose={setPlace}
      />
      <div className="lane-ways">
        <h3>Sensor {lane.heaps.lane || "in hand"}</h3>
        <p>{lane.why_not ? `No threshold can do here: ${lane.why_not}.` : lane.why}</p>
        <Ways lane={lane} onTake={(at) => move(lanes.indexOf(lane), at)} />
        <p className="quiet">
          {lane.per_volt > 0 && (
            <>
              On a comparator’s trimmer set <b>{grouped(lane.at / lane.per_volt, 2)} V</b>, measured at its threshold
              pin against ground.{" "}
            </>
          )}
          {nearest(lane, readsIn(units, lane.counted.shown))}
        </p>
        {elsewhere.length > 0 && (
          <details className="more-fields">
            <summary>what these thresholds do elsewhere, by the studies</summary>
            <table className="mark-table lane-table">
              <thead>
                <tr>
                  <th scope="col">where</th>
                  <th scope="col" className="figure">
                    misread
                  </th>
                  <th scope="col" className="figure">
                    of
                  </th>
                </tr>
              </thead>
              <tbody>
                {elsewhere.map((one) => (
                  <tr key={one.where}>
                    <th scope="row">{one.where}</th>
                    <td className={one.misread === 0 ? "figure" : "figure is-bad"}>
                      {one.misread === null ? "the heaps are one" : grouped(one.misread, 0)}
                    </td>
                    <td className="figure">{grouped(one.samples, 0)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
        )}
      </div>
    </section>
  );
}

/** Every way to choose, where it puts the threshold, and why not. */
function Ways({ lane, onTake }: { lane: Lane; onTake: (at: number) => void }) {
  const reads = readsIn(useUnits(), lane.counted.shown);
  const hasVolts = tellsVolts(lane);
  const inHand = { name: "", label: "in hand", at: lane.at, misread: lane.misread };
  return (
    <table className="mark-table lane-table">
      <thead>
        <tr>
          <th scope="col">way</th>
          <th scope="col" className="figure">
            {reads.unit || lane.counted.name}
          </th>
          {hasVolts && (
            <th scope="col" className="figure">
              V
            </th>
          )}
          <th scope="col" className="figure">
            %
          </th>
          <th scope="col">misread</th>
          <th scope="col" className="figure">
            if normal
          </th>
        </tr>
      </thead>
      <tbody>
        {[inHand, ...lane.ways].map((way) => (
          <tr key={way.name} className={way.name === "" ? "is-in-hand" : ""}>
            <th scope="row">
              {way.name === "" ? (
                "in hand"
              ) : (
                <button type="button" className="link-button" onClick={() => onTake(way.at)}>
                  {way.label}
                </button>
              )}
              {way.name === lane.best && <span className="quiet"> recommended</span>}
            </th>
            <td className="figure">{grouped(reads.fromSi(way.at), reads.decimals)}</td>
            {hasVolts && <td className="figure">{grouped(way.at / lane.per_volt, 2)}</td>}
            <td className="figure">{grouped(100 * share(lane, way.at), 0)}</td>
            <td>{misreadSaid(way.misread)}</td>
            <td className="figure">{rateSaid(way.misread.gaussian)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Where the threshold of a lane is now. */
function lineOf(lane: Lane, place: number, tried: Props["tried"]): { at: number; half: number } {
  const at = tried?.at[tried.at.length === 1 ? 0 : place];
  const half = tried?.half[tried.half.length === 1 ? 0 : place];
  if (at === undefined || half === undefined) return lane;
  return { at: lane.black + at * lane.per_share, half: half * Math.abs(lane.per_share) };
}

function misreadShort(lane: Lane | undefined, wrong: number): string {
  if (!lane) return "";
  const { samples } = lane.misread;
  return wrong === 0 ? `none of ${grouped(samples, 0)}` : `${grouped(wrong, 0)} of ${grouped(samples, 0)}`;
}

function misreadSaid(found: Misread): string {
  const wrong = found.missed + found.false;
  return `${wrong === 0 ? "none" : grouped(wrong, 0)}, at most ${rateSaid(found.high)}`;
}

/** A rate as a person reads it: in per cent, or once in how many. */
function rateSaid(rate: number): string {
  if (rate >= 0.001) return `${Number((100 * rate).toPrecision(2))} %`;
  if (rate < 1e-15) return "next to never";
  return `1 in 10${superscript(Math.round(-Math.log10(rate)))}`;
}

function superscript(whole: number): string {
  return [...String(whole)].map((digit) => "⁰¹²³⁴⁵⁶⁷⁸⁹"[Number(digit)]).join("");
}

/** Whether volts are worth saying beside what is counted: of codes, whose converter is known. */
const tellsVolts = (lane: Lane) => lane.per_volt > 0 && lane.counted.unit !== "V";

/** How far the nearer heap is, in every unit a person may have at hand. */
function nearest(lane: Lane, reads: Reads): string {
  const margins = [lane.heaps.dark, lane.heaps.light].map((heap) => ({
    name: heap.name,
    away: Math.abs((heap.mean ?? lane.at) - lane.at),
    sd: heap.sd ?? 0,
  }));
  const near = margins.sort((a, b) => a.away - b.away)[0];
  if (!near) return "";
  const said = reads.unit ? saidIn(reads, near.away) : `${grouped(near.away, 0)} ${lane.counted.name}`;
  const volts = tellsVolts(lane) ? `, ${grouped(near.away / lane.per_volt, 2)} V` : "";
  const percent = grouped((100 * near.away) / Math.abs(lane.per_share), 0);
  const sigmas = near.sd > 0 ? `, ${grouped(near.away / near.sd, 0)} σ` : "";
  return `The nearer heap is ${near.name}: ${said}${volts}, ${percent} % of the way${sigmas} away.`;
}
