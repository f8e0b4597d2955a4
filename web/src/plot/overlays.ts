import type uPlot from "uplot";
import type { View } from "../api/queries";
import type { Colours } from "./colours";
import { hatch } from "./hatch";

/** What is drawn over and under the line. */
export interface Overlay {
  props: {
    view: View;
    bands?: { id: number; name: string; from_s: number; to_s: number }[];
    threshold?: { stop_m: number; go_m: number } | null;
  };
  colours: Colours;
  perMetre: number;
  font: string;
}

/** Under the line: the spans of marks, and the zone in which the rig stops. */
export function drawBelow(u: uPlot, { props, colours, perMetre, font }: Overlay): void {
  const { ctx, bbox } = u;
  ctx.save();
  clip(u);
  if (props.threshold) {
    const top = u.valToPos(props.threshold.stop_m * perMetre, "y", true);
    ctx.fillStyle = colours.stopFill;
    ctx.fillRect(bbox.left, top, bbox.width, bbox.top + bbox.height - top);
  }
  for (const { from_s: from, to_s: to } of props.view.pauses) {
    const [a, b] = [u.valToPos(from, "x", true), u.valToPos(to, "x", true)];
    const words = `nothing for ${(to - from).toFixed(1)} s`;
    hatch(ctx, a, b, bbox.top, bbox.height, colours.quiet, words, devicePixelRatio);
  }
  ctx.font = scaled(font);
  ctx.textAlign = "center";
  ctx.textBaseline = "top";
  for (const band of props.bands ?? []) {
    const from = u.valToPos(band.from_s, "x", true);
    const to = u.valToPos(band.to_s, "x", true);
    ctx.fillStyle = colours.mark;
    ctx.fillRect(from, bbox.top, to - from, bbox.height);
    ctx.fillStyle = colours.markInk;
    const room = to - from - 6;
    const name = fitting(ctx, band.name, room);
    ctx.fillText(name, (from + to) / 2, bbox.top + 5 * devicePixelRatio);
  }
  ctx.restore();
}

/** Over the line: thresholds, flagged samples, and the reading in hand. */
export function drawAbove(u: uPlot, { props, colours, perMetre, font }: Overlay): void {
  const { ctx, bbox } = u;
  const pixel = devicePixelRatio;
  ctx.save();
  clip(u);
  ctx.font = scaled(font);
  if (props.threshold) {
    const { go_m: goM, stop_m: stopM } = props.threshold;
    const [dots, dashes] = [
      [2 * pixel, 4 * pixel],
      [7 * pixel, 4 * pixel],
    ];
    rule(u, { says: "go again above", atM: goM, colour: colours.go, dash: dots, side: "over" }, colours, perMetre);
    rule(u, { says: "stop below", atM: stopM, colour: colours.stop, dash: dashes, side: "under" }, colours, perMetre);
  }
  const foot = bbox.top + bbox.height - 9 * pixel;
  ctx.strokeStyle = colours.stop;
  ctx.lineWidth = 1.5 * pixel;
  ctx.beginPath();
  for (const flag of props.view.flags) {
    traceSign(ctx, flag.status, u.valToPos(flag.time_s, "x", true), foot, 4 * pixel);
  }
  ctx.stroke();
  if (props.view.at_s !== null) {
    const x = u.valToPos(props.view.at_s, "x", true);
    ctx.strokeStyle = colours.hand;
    ctx.lineWidth = pixel;
    ctx.beginPath();
    ctx.moveTo(x, bbox.top);
    ctx.lineTo(x, bbox.top + bbox.height);
    ctx.stroke();
    const value = props.view.working.filter((step) => step.stage !== "threshold").at(-1)?.value;
    if (value != null && props.view.at_status === "ok") {
      ctx.fillStyle = colours.hand;
      ctx.beginPath();
      ctx.arc(x, u.valToPos(value * perMetre, "y", true), 4 * pixel, 0, 2 * Math.PI);
      ctx.fill();
    }
  }
  ctx.restore();
}

function clip(u: uPlot): void {
  u.ctx.beginPath();
  u.ctx.rect(u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height);
  u.ctx.clip();
}

function scaled(font: string): string {
  return font.replace(/^(\d+)px/, (_, size: string) => `${Number(size) * devicePixelRatio}px`);
}

function fitting(ctx: CanvasRenderingContext2D, text: string, room: number): string {
  if (ctx.measureText(text).width <= room) return text;
  let short = text;
  while (short.length > 1 && ctx.measureText(`${short}…`).width > room) short = short.slice(0, -1);
  return short.length > 1 ? `${short}…` : "";
}

/** A line across the plot, and the side of it that its words stand on. */
interface Rule {
  says: string;
  atM: number;
  colour: string;
  dash: number[];
  side: "over" | "under";
}

function rule(u: uPlot, { says, atM, colour, dash, side }: Rule, colours: Colours, perMetre: number): void {
  const { ctx, bbox } = u;
  const pixel = devicePixelRatio;
  const y = u.valToPos(atM * perMetre, "y", true);
  ctx.save();
  ctx.strokeStyle = colour;
  ctx.lineWidth = 1.5 * pixel;
  ctx.setLineDash(dash);
  ctx.beginPath();
  ctx.moveTo(bbox.left, y);
  ctx.lineTo(bbox.left + bbox.width, y);
  ctx.stroke();
  ctx.setLineDash([]);
  const words = `${says} ${perMetre === 1 ? `${atM.toFixed(2)} m` : `${(atM * perMetre).toFixed(1)} in`}`;
  const [x, level] = [bbox.left + bbox.width - 6 * pixel, y + (side === "under" ? 4 : -2) * pixel];
  ctx.textAlign = "right";
  ctx.textBaseline = side === "under" ? "top" : "bottom";
  // On a narrow screen the trace runs behind the words.
  ctx.strokeStyle = colours.sheet;
  ctx.lineWidth = 4 * pixel;
  ctx.lineJoin = "round";
  ctx.strokeText(words, x, level);
  ctx.fillStyle = colour;
  ctx.fillText(words, x, level);
  ctx.restore();
}

/** One shape for each status, so that colour is never alone; added to the path being drawn. */
function traceSign(ctx: CanvasRenderingContext2D, status: string, x: number, y: number, size: number): void {
  if (status === "too_near" || status === "too_far") {
    const up = status === "too_far" ? -1 : 1;
    ctx.moveTo(x - size, y - up * size * 0.6);
    ctx.lineTo(x + size, y - up * size * 0.6);
    ctx.lineTo(x, y + up * size);
    ctx.closePath();
  } else if (status === "timed_out") {
    ctx.rect(x - size, y - size, 2 * size, 2 * size);
  } else {
    ctx.moveTo(x - size, y - size);
    ctx.lineTo(x + size, y + size);
    ctx.moveTo(x + size, y - size);
    ctx.lineTo(x - size, y + size);
  }
}
