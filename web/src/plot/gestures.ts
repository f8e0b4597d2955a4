import type uPlot from "uplot";
import type { Latest, PlotProps } from "./props";
import { attachPointer } from "./pointer";
import { shownRange } from "./ranges";

/** Show `factor` times as much time, keeping `around` (or the reading in hand) where it is. */
export function zoomBy(u: uPlot | null, props: PlotProps, factor: number, around?: number) {
  if (!u) return;
  const [from, to] = shownRange(props);
  const centre = around ?? props.seen.at_s ?? (from + to) / 2;
  const inside = centre >= from && centre <= to ? centre : (from + to) / 2;
  const narrowest = Math.min(0.2, props.durationS);
  const width = Math.max(narrowest, (to - from) * factor);
  if (width >= props.durationS) {
    props.onRange(null);
    return;
  }
  const share = (inside - from) / (to - from);
  const start = Math.min(Math.max(0, inside - share * width), props.durationS - width);
  props.onRange([start, start + width]);
}

/** Wheel zoom, drag pan and click; returns what takes them away again. */
export function attach(u: uPlot, latest: Latest): () => void {
  let held = { from: 0, to: 0 };
  return attachPointer(u, {
    onWheel: (isUp, at) => zoomBy(u, latest.current, isUp ? 0.8 : 1.25, at),
    onDown() {
      const [from, to] = shownRange(latest.current);
      held = { from, to };
      return !latest.current.selecting;
    },
    onDrag(pixels) {
      const { range, durationS, onRange } = latest.current;
      if (!range) return;
      const width = held.to - held.from;
      const by = (-pixels / u.over.clientWidth) * width;
      const from = Math.min(Math.max(0, held.from + by), durationS - width);
      onRange([from, from + width]);
    },
    onClick: (at) => latest.current.onAt(Math.max(0, at)),
  });
}
