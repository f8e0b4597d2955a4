import uPlot from "uplot";
import { hatch } from "../plot/hatch";
import { markSays } from "./markSays";
import { shortTime, trueValue } from "./words";
import type { LatestTake } from "./props";
import { tickLabels } from "../plot/ticks";

/** Colours of series; each has a dash of its own too, so that colour is never all that tells. */
export interface Ink {
  series: string[];
  quiet: string;
  hairline: string;
  mark: string;
  select: string;
  flag: string;
}

const DASHES: number[][] = [[], [7, 3], [2, 3], [10, 3, 2, 3], [5, 2, 5, 6], [1, 2]];

export function inkNow(element: Element): Ink {
  const style = getComputedStyle(element);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return {
    series: [
      of("--ts-accent"),
      of("--ts-failing"),
      of("--ts-ticked"),
      of("--ts-stale"),
      of("--ts-ink"),
      of("--ts-quiet"),
    ],
    quiet: of("--ts-quiet"),
    hairline: of("--ts-hairline"),
    mark: of("--ts-mark"),
    select: of("--ts-spread"),
    flag: of("--ts-failing"),
  };
}

/** How a plot of a take looks: units on their own scales, marks, gaps, flagged samples, selection. */
export function takeOptions(
  width: number,
  height: number,
  ink: Ink,
  latest: LatestTake,
  hasTimes: boolean,
): uPlot.Options {
  const font = '12px "Atkinson Hyperlegible Mono", monospace';
  const { series } = latest.current.plotted;
  const units = [...new Set(series.map((one) => one.unit))];
  const scaleOf = (unit: string) => `y:${unit}`;
  return {
    width,
    height,
    pxAlign: false,
    legend: { show: false },
    padding: [8, 12, hasTimes ? 0 : 4, 0],
    cursor: {
      sync: { key: "take", setSeries: false },
      drag: { x: false, y: false, setScale: false },
      points: { size: 6 },
    },
    scales: {
      x: { time: false, range: () => latest.current.shown },
      ...Object.fromEntries(
        units.map((unit) => [
          scaleOf(unit),
          {
            range: (_: uPlot, low: number | null, high: number | null): [number, number] => {
              if (low === null || high === null) return [0, 1];
              const room = high > low ? 0.07 * (high - low) : Math.abs(high) * 0.01 || 1;
              return [low - room, high + room];
            },
          },
        ]),
      ),
    },
    axes: [
      {
        show: hasTimes,
        stroke: ink.quiet,
        font,
        size: 26,
        space: 80,
        grid: { stroke: ink.hairline, width: 1 },
        ticks: { show: false },
        values: (_, splits) => splits.map((t, i) => `${Number(t.toFixed(6))}${i === splits.length - 1 ? " s" : ""}`),
      },
      ...units.slice(0, 2).map((unit, side) => ({
        scale: scaleOf(unit),
        side: side === 0 ? 3 : 1,
        stroke: ink.quiet,
        font,
        size: 78,
        space: 26,
        grid: { show: side === 0, stroke: ink.hairline, width: 1 },
        ticks: { show: false },
        values: (_: uPlot, splits: number[]) => tickLabels(splits, unit),
      })),
    ],
    series: [
      {},
      ...series.map((one, index) => ({
        scale: scaleOf(one.unit),
        stroke: ink.series[index % ink.series.length] ?? ink.quiet,
        width: 1.4,
        dash: DASHES[index % DASHES.length] ?? [],
        spanGaps: false,
        points: { show: !one.is_thinned && one.time_s.length > 0 && one.time_s.length < 160, size: 4 },
      })),
    ],
    hooks: {
      drawClear: [(u) => drawBelow(u, ink, latest)],
      draw: [(u) => drawFlags(u, ink, latest)],
      setCursor: [
        (u) => {
          const left = u.cursor.left ?? -1;
          if (left >= 0) latest.current.onHover(u.posToVal(left, "x"));
        },
      ],
    },
  };
}

function drawBelow(u: uPlot, ink: Ink, latest: LatestTake): void {
  const { ctx, bbox } = u;
  const { marks, gaps, selection } = latest.current;
  const x = (t: number) => Math.min(bbox.left + bbox.width, Math.max(bbox.left, u.valToPos(t, "x", true)));
  ctx.save();
  ctx.textAlign = "left";
  ctx.textBaseline = "alphabetic";
  const inOrder = [...marks].sort((one, other) => one.start_s - other.start_s);
  for (const [n, mark] of inOrder.entries()) {
    const [a, b] = [x(mark.start_s), x(mark.end_s)];
    if (b <= bbox.left || a >= bbox.left + bbox.width) continue;
    ctx.fillStyle = ink.mark;
    ctx.fillRect(a, bbox.top, Math.max(2, b - a), bbox.height);
    ctx.fillStyle = ink.quiet;
    ctx.font = `${12 * devicePixelRatio}px "Atkinson Hyperlegible Next", sans-serif`;
    // As much of it as there is room for before the next mark.
    const room = x(inOrder[n + 1]?.start_s ?? Infinity) - a - 8 * devicePixelRatio;
    const value = trueValue(mark);
    const says = markSays(mark);
    const words = [[says, value].filter(Boolean).join(": ") || "mark", value, says].find(
      (text) => text && ctx.measureText(text).width <= room,
    );
    if (words) ctx.fillText(words, a + 4 * devicePixelRatio, bbox.top + 13 * devicePixelRatio);
  }
  const pauses = latest.current.plotted.series.flatMap((one) => one.pauses);
  const stretches = new Map([...gaps, ...pauses].map((one) => [one.from_s, one.to_s]));
  for (const [from, to] of stretches) {
    const [a, b] = [x(from), x(to)];
    if (b <= bbox.left || a >= bbox.left + bbox.width) continue;
    hatch(ctx, a, b, bbox.top, bbox.height, ink.quiet, `nothing for ${shortTime(to - from)}`, devicePixelRatio);
  }
  if (selection) {
    ctx.fillStyle = ink.select;
    ctx.fillRect(x(selection[0]), bbox.top, Math.max(1, x(selection[1]) - x(selection[0])), bbox.height);
    ctx.fillStyle = ink.quiet;
    ctx.font = `bold ${12 * devicePixelRatio}px "Atkinson Hyperlegible Next", sans-serif`;
    ctx.textBaseline = "top";
    for (const [letter, edge, align] of [
      ["A", 0, "right"],
      ["B", 1, "left"],
    ] as const) {
      const at = u.valToPos(selection[edge], "x", true);
      if (at < bbox.left + 12 * devicePixelRatio || at > bbox.left + bbox.width - 12 * devicePixelRatio) continue;
      ctx.textAlign = align;
      ctx.fillText(letter, at + (edge ? 4 : -4) * devicePixelRatio, bbox.top + 4 * devicePixelRatio);
    }
  }
  ctx.restore();
}

/** Flagged samples: a cross at the foot, where a value would be a lie. */
function drawFlags(u: uPlot, ink: Ink, latest: LatestTake): void {
  const { ctx, bbox } = u;
  const size = 3 * devicePixelRatio;
  const foot = bbox.top + bbox.height - 2 * size;
  ctx.save();
  ctx.strokeStyle = ink.flag;
  ctx.lineWidth = 1.4 * devicePixelRatio;
  ctx.beginPath();
  for (const one of latest.current.plotted.series) {
    let last = -1e9;
    for (const t of one.flag_s) {
      const x = u.valToPos(t, "x", true);
      if (x < bbox.left || x > bbox.left + bbox.width || x - last < 2 * size) continue;
      last = x;
      ctx.moveTo(x - size, foot - size);
      ctx.lineTo(x + size, foot + size);
      ctx.moveTo(x + size, foot - size);
      ctx.lineTo(x - size, foot + size);
    }
  }
  ctx.stroke();
  ctx.restore();
}
