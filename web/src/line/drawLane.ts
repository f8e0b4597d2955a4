import { hatch } from "../plot/hatch";
import { drawTrace } from "./drawTrace";
import type { LaneColours } from "./laneColours";

interface Lane {
  canvas: HTMLCanvasElement;
  t: number[];
  v: (number | null)[];
  f: number[];
  nowS: number;
  windowS: number;
  /** Where the recording that runs began, s; null when none runs. */
  recordedFromS: number | null;
  marks: { from_s: number; to_s: number }[];
  colours: LaneColours;
}

const PAD = 5;

/** Draws one channel of the last seconds; returns the lowest and highest value shown. */
export function drawLane(lane: Lane): [number, number] | null {
  const { canvas, t, v, f, colours } = lane;
  const ratio = window.devicePixelRatio || 1;
  const width = canvas.clientWidth;
  const height = canvas.clientHeight;
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
  }
  const c = canvas.getContext("2d");
  if (!c) return null;
  c.setTransform(ratio, 0, 0, ratio, 0, 0);
  c.clearRect(0, 0, width, height);
  const from = lane.nowS - lane.windowS;
  const x = (at: number) => ((at - from) / lane.windowS) * width;
  c.strokeStyle = colours.hairline;
  c.lineWidth = 1;
  const step = lane.windowS / 5;
  c.beginPath();
  for (let at = Math.ceil(from / step) * step; at < lane.nowS; at += step) {
    c.moveTo(Math.round(x(at)) + 0.5, 0);
    c.lineTo(Math.round(x(at)) + 0.5, height);
  }
  c.stroke();
  c.fillStyle = colours.mark;
  for (const mark of lane.marks) c.fillRect(x(mark.from_s), 0, Math.max(2, x(mark.to_s) - x(mark.from_s)), height);
  if (lane.recordedFromS !== null) {
    c.fillStyle = colours.recording;
    const left = Math.max(0, x(lane.recordedFromS));
    c.fillRect(left, height - 2, width - left, 2);
  }
  const range = rangeOf(t, v, from);
  if (!range) return null;
  const [low, high] = range;
  const span = high - low || 1;
  const y = (value: number) => height - PAD - ((value - low) / span) * (height - 2 * PAD);
  c.strokeStyle = colours.ink;
  const longestPause = longestOf(t);
  for (let n = 1; n < t.length; n++) {
    const [before, at] = [t[n - 1] ?? 0, t[n] ?? 0];
    if (at < from || at - before <= longestPause) continue;
    hatch(c, x(Math.max(before, from)), x(at), 0, height, colours.hatch, `${(at - before).toFixed(1)} s`, 1);
  }
  drawTrace(c, { t, v, f, from: from - lane.windowS * 0.05, longestPause, x, y }, width, ratio);
  drawFlags(c, lane, x, height);
  return range;
}

/** Flagged samples: a small cross at the foot, never a value. */
function drawFlags(c: CanvasRenderingContext2D, lane: Lane, x: (at: number) => number, height: number): void {
  c.strokeStyle = lane.colours.flag;
  c.lineWidth = 1.5;
  c.beginPath();
  let last = -10;
  lane.f.forEach((flag, n) => {
    if (!flag) return;
    const at = x(lane.t[n] ?? 0);
    if (at - last < 3) return;
    last = at;
    c.moveTo(at - 2.5, height - 8.5);
    c.lineTo(at + 2.5, height - 3.5);
    c.moveTo(at + 2.5, height - 8.5);
    c.lineTo(at - 2.5, height - 3.5);
  });
  c.stroke();
}

/** A longer pause than this, s, breaks the line: many times what is usual, and never a wink. */
function longestOf(t: number[]): number {
  const steps = t
    .slice(-240)
    .map((at, n, all) => at - (all[n - 1] ?? at))
    .slice(1)
    .sort((a, b) => a - b);
  const usual = steps[Math.floor(steps.length / 2)] ?? 0;
  const long = steps[Math.floor(0.9 * (steps.length - 1))] ?? 0;
  return Math.max(0.25, 8 * usual, 3 * long);
}

function rangeOf(t: number[], v: (number | null)[], from: number): [number, number] | null {
  let low = Infinity;
  let high = -Infinity;
  for (let n = 0; n < v.length; n++) {
    const value = v[n];
    if (value == null || (t[n] ?? 0) < from) continue;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  if (low > high) return null;
  // The noise of a sensor at rest does not fill its lane.
  const least = Math.max(Math.abs(high), Math.abs(low)) * 0.05 || 1;
  if (high - low < least) {
    const middle = (high + low) / 2;
    return [middle - least, middle + least];
  }
  return [low, high];
}
