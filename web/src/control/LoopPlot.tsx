import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { coloursNow } from "../plot/colours";
import { tickLabels } from "../plot/ticks";
import { usePreferences } from "../shell/preferences";
import type { Reads } from "../units/shown";
import { lineColours } from "../filters/lines";

export interface Line {
  name: string;
  time_s: number[];
  values: (number | null)[];
  /** Which of the colours and dashes. */
  look: number;
  /** Thin and without a word of its own, such as readings. */
  isFaint?: boolean;
  isStepped?: boolean;
}

interface Props {
  label: string;
  lines: Line[];
  reads: Reads;
  height: number;
  /** Of plots one below the other only the last has its times. */
  hasTimes: boolean;
}

/** Settings side by side differ by dash as well as by colour. */
const DASHES: number[][] = [[], [], [9, 4], [2, 3], [11, 3, 2, 3]];

/** How a setting is drawn, as a style for a swatch. */
export const LOOKS = ["", "solid", "dashed", "dotted", "double"];

/** Lines over time. Drag zooms in, a double click shows all again. */
export function LoopPlot({ label, lines, reads, height, hasTimes }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const [{ theme }] = usePreferences();
  useEffect(() => {
    const element = holder.current;
    if (!element || lines.length === 0) return;
    const colours = coloursNow(element);
    const looks = lineColours(element);
    const font = '12px "Atkinson Hyperlegible Mono", monospace';
    const axis = { stroke: colours.quiet, font, grid: { stroke: colours.hairline, width: 1 }, ticks: { show: false } };
    const data = uPlot.join(
      lines.map(
        (line) =>
          [line.time_s, line.values.map((one) => (one === null ? null : reads.fromSi(one)))] as uPlot.AlignedData,
      ),
    );
    const stepped = uPlot.paths.stepped?.({ align: 1 });
    const made = new uPlot(
      {
        width: element.clientWidth,
        height,
        pxAlign: false,
        legend: { show: false },
        padding: [8, 10, hasTimes ? 0 : 6, 0],
        cursor: { drag: { x: true, y: false, setScale: true }, sync: { key: "loop" }, points: { size: 6 } },
        scales: { x: { time: false } },
        axes: [
          { ...axis, size: hasTimes ? 28 : 8, space: 72, ...(hasTimes ? {} : { values: () => [] }) },
          { ...axis, size: 66, values: (_, splits) => tickLabels(splits, reads.unit) },
        ],
        series: [
          {},
          ...lines.map((line) => ({
            stroke: line.look < 0 ? colours.quiet : (looks[line.look]?.colour ?? colours.ink),
            width: line.isFaint ? 0.8 : 1.9,
            dash: line.look < 0 ? [6, 4] : line.isFaint ? [] : (DASHES[line.look] ?? []),
            alpha: line.isFaint ? 0.45 : 1,
            points: { show: false },
            ...(line.isStepped && stepped ? { paths: stepped } : {}),
          })),
        ],
      },
      data,
      element,
    );
    const watcher = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }));
    watcher.observe(element);
    return () => {
      watcher.disconnect();
      made.destroy();
    };
  }, [lines, reads.unit, height, hasTimes, theme]); // eslint-disable-line react-hooks/exhaustive-deps
  return <div ref={holder} className="loop-plot" role="img" aria-label={label} />;
}
