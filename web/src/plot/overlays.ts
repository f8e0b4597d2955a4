import type uPlot from "uplot";
import type { Level } from "../api/queries";
import { type Reads, saidIn } from "../units/shown";
import type { Colours } from "./colours";
import { hatch } from "./hatch";
import type { PlotProps } from "./props";

/** What is drawn over and under the line. */
export interface Overlay {
  props: Pick<PlotProps, "seen" | "bands">;
  colours: Colours;
  reads: Reads;
  font: string;
}

/** Under the line: the spans of marks, and the zones that mean alarm. */
export function drawBelow(u: uPlot, { props, colours, reads, font }: Overlay): void {
  const { ctx, bbox } = u;
  ctx.save();
  clip(u);
  for (const level of props.seen.levels.filter((one) => one.is_alarm)) {
    const at = u.valToPos(reads.fromSi(level.at), "y", true);
    const [top, foot] = level.side === "below" ? [at, bbox.top + bbox.height] : [bbox.top, at];
    ctx.fillStyle = colours.stopFill;
    ctx.fillRect(bbox.left, top, bbox.width, foot - top);
  }
  for (const { from_s: from, to_s: to } of props.seen.lines[0]?.pauses ?? []) {
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

/** Over the line: levels, flagged samples, and the reading in hand. */
export function drawAbove(u: uPlot, { props, colours, reads, font }: Overlay): void {
  const { ctx, bbox } = u;
  const pixel = devicePixelRatio;
  ctx.save();
  clip(u);
  ctx.font = scaled(font);
  for (const level of props.seen.levels) drawLevel(u, level, colours, reads);
  const foot = bbox.top + bbox.height - 9 * pixel;
  ctx.strokeStyle = colours.stop;
  ctx.lineWidth = 1.5 * pixel;
  ctx.beginPath();
  for (const line of props.seen.lines) {
    line.flag_s.forEach((at, n) => traceSign(ctx, line.flag[n] ?? "", u.valToPos(at, "x", true), foot, 4 * pixel));
  }
  ctx.stroke();
  if (props.seen.at_s !== null) {
    const x = u.valToPos(props.seen.at_s, "x", true);
    ctx.strokeStyle = colours.hand;
    ctx.lineWidth = pixel;
    ctx.beginPath();
    ctx.moveTo(x, bbox.top);
    ctx.lineTo(x, bbox.top + bbox.height);
    ctx.stroke();
    const value = props.seen.working.at(-1)?.value;
    if (value != null && props.seen.at_status === "ok") {
      ctx.fillStyle = colours.hand;
      ctx.beginPath();
      ctx.arc(x, u.valToPos(reads.fromSi(value), "y", true), 4 * pixel, 0, 2 * Math.PI);
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

/** A line across the plot with its words on the side it means; alarm and calm differ by their dash. */
function drawLevel(u: uPlot, level: Level, colours: Colours, reads: Reads): void {
  const { ctx, bbox } = u;
  const pixel = devicePixelRatio;
  const y = u.valToPos(reads.fromSi(level.at), "y", true);
  const colour = level.is_alarm ? colours.stop : colours.go;
  ctx.save();
  ctx.strokeStyle = colour;
  ctx.lineWidth = 1.5 * pixel;
  ctx.setLineDash(level.is_alarm ? [7 * pixel, 4 * pixel] : [2 * pixel, 4 * pixel]);
  ctx.beginPath();
  ctx.moveTo(bbox.left, y);
  ctx.lineTo(bbox.left + bbox.width, y);
  ctx.stroke();
  ctx.setLineDash([]);
  const words = `${level.label} ${saidIn(reads, level.at, Math.max(0, reads.decimals - 1))}`;
  const isUnder = level.side === "below";
  const [x, at] = [bbox.left + bbox.width - 6 * pixel, y + (isUnder ? 4 : -2) * pixel];
  ctx.textAlign = "right";
  ctx.textBaseline = isUnder ? "top" : "bottom";
  // On a narrow screen the trace runs behind the words.
  ctx.strokeStyle = colours.sheet;
  ctx.lineWidth = 4 * pixel;
  ctx.lineJoin = "round";
  ctx.strokeText(words, x, at);
  ctx.fillStyle = colour;
  ctx.fillText(words, x, at);
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
