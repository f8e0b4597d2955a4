import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { coloursNow } from "../plot/colours";
import { pointsOf } from "../plot/data";
import { tickLabels } from "../plot/ticks";
import { usePreferences } from "../shell/preferences";
import { useReads } from "../units/shown";
import { lineColours } from "./lines";
import type { Comparison } from "./queries";

const HEIGHT = 250;

interface Props {
  told: Comparison;
  /** Rows that are drawn, by their place. */
  shown: boolean[];
}

/** The recording and every filter over it; drag zooms in, a double click shows all again. */
export function LinesPlot({ told, shown }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const [{ theme }] = usePreferences();
  const reads = useReads(told.quantity.shown);

  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const colours = coloursNow(element);
    const lines = lineColours(element);
    const font = '12px "Atkinson Hyperlegible Mono", monospace';
    const axis = { stroke: colours.quiet, font, grid: { stroke: colours.hairline, width: 1 }, ticks: { show: false } };
    const drawn = told.rows.map((row, place) => ({ row, place })).filter(({ place }) => shown[place] !== false);
    const data = uPlot.join(
      drawn.map(({ row }) => {
        const { t, v } = pointsOf(row.line);
        return [t, v.map((one) => (one === null ? null : reads.fromSi(one)))] as uPlot.AlignedData;
      }),
    );
    const made = new uPlot(
      {
        width: element.clientWidth,
        height: HEIGHT,
        pxAlign: false,
        legend: { show: false },
        padding: [10, 12, 0, 0],
        cursor: { drag: { x: true, y: false, setScale: true }, points: { size: 6 } },
        scales: { x: { time: false } },
        axes: [
          { ...axis, size: 28, space: 72 },
          { ...axis, size: 66, values: (_, splits) => tickLabels(splits, reads.unit) },
        ],
        series: [
          {},
          ...drawn.map(({ place }) => ({
            stroke: lines[place]?.colour ?? colours.ink,
            width: place === 0 ? 1 : 1.8,
            dash: lines[place]?.dash ?? [],
            spanGaps: true,
            points: { show: false },
          })),
        ],
      },
      data,
      element,
    );
    const watcher = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height: HEIGHT }));
    watcher.observe(element);
    return () => {
      watcher.disconnect();
      made.destroy();
    };
  }, [told, shown, theme, reads.unit]); // eslint-disable-line react-hooks/exhaustive-deps

  return (
    <div className="plot">
      <div ref={holder} role="img" aria-label={`${told.rows.length - 1} filters over ${told.samples} readings`} />
      <div className="plot-foot">
        <span className="crosshair">drag zooms in, a double click shows all</span>
      </div>
    </div>
  );
}
