import type uPlot from "uplot";
import type { Colours } from "./colours";
import { type Overlay, drawAbove, drawBelow } from "./overlays";
import type { Reads } from "../units/shown";
import type { Latest } from "./props";
import { heightRange, shownRange } from "./ranges";
import { tickLabels } from "./ticks";

/** Lanes differ by their dash. */
const LANE_DASHES: number[][] = [[], [7, 3], [2, 3], [10, 3, 2, 3], [5, 2, 5, 6], [1, 2]];

/** How wide a character of a label is, at most. */
const CHARACTER_PX = 7.8;

/** How the plot looks and what it tells of. */
export function options(
  width: number,
  height: number,
  colours: Colours,
  reads: Reads,
  lanes: number,
  selecting: boolean,
  latest: Latest,
  onHover: (hover: { t: number; v: number | null } | null) => void,
  onBox: (box: { left: number; width: number; from: number; to: number }) => void,
): uPlot.Options {
  const font = '12px "Atkinson Hyperlegible Mono", monospace';
  const overlay = (): Overlay => ({ props: latest.current, colours, reads, font });
  return {
    width,
    height,
    pxAlign: false,
    legend: { show: false },
    padding: [10, 12, 0, 0],
    cursor: { drag: { x: selecting, y: false, setScale: false }, points: { size: 7 } },
    scales: {
      x: { time: false, range: () => shownRange(latest.current) },
      y: { range: (_, low, high) => heightRange(latest.current, low, high, reads) },
    },
    axes: [
      {
        stroke: colours.quiet,
        font,
        size: 28,
        space: 72,
        grid: { stroke: colours.hairline, width: 1 },
        ticks: { show: false },
        values: (_, splits) => splits.map((t, i) => `${Number(t.toFixed(3))}${i === splits.length - 1 ? " s" : ""}`),
      },
      {
        stroke: colours.quiet,
        font,
        size: (_, labels) => Math.max(58, 12 + CHARACTER_PX * Math.max(0, ...(labels ?? []).map((one) => one.length))),
        grid: { stroke: colours.hairline, width: 1 },
        ticks: { show: false },
        values: (_, splits) => tickLabels(splits, reads.unit),
      },
    ],
    series: [
      {},
      { stroke: "transparent", width: 0, points: { show: false } },
      { stroke: "transparent", width: 0, points: { show: false } },
      ...Array.from({ length: lanes }, (_, lane) => ({
        stroke: colours.ink,
        width: 1.5,
        dash: LANE_DASHES[lane % LANE_DASHES.length] ?? [],
        spanGaps: false,
        points: { show: false },
      })),
    ],
    bands: [{ series: [1, 2], fill: colours.spread }],
    hooks: {
      drawClear: [(u) => drawBelow(u, overlay())],
      draw: [
        (u) => drawAbove(u, overlay()),
        (u) => {
          const ratio = devicePixelRatio;
          onBox({
            left: u.bbox.left / ratio,
            width: u.bbox.width / ratio,
            from: u.scales["x"]?.min ?? 0,
            to: u.scales["x"]?.max ?? 1,
          });
        },
      ],
      setCursor: [
        (u) => {
          const index = u.cursor.idx;
          const left = u.cursor.left ?? -1;
          if (left < 0 || index == null) return;
          onHover({ t: u.posToVal(left, "x"), v: (u.data[3]?.[index] as number | null | undefined) ?? null });
        },
      ],
      setSelect: [
        (u) => {
          if (u.select.width < 4) return;
          const from = u.posToVal(u.select.left, "x");
          const to = u.posToVal(u.select.left + u.select.width, "x");
          latest.current.onSelect?.(Math.max(0, from), to);
          u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
        },
      ],
    },
  };
}
