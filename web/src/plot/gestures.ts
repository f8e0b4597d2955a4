import type uPlot from "uplot";
import type { Latest, PlotProps } from "./props";
import { shownRange } from "./ranges";

/** Show `factor` times as much time, keeping `around` (or the reading in hand) where it is. */
export function zoomBy(u: uPlot | null, props: PlotProps, factor: number, around?: number) {
  if (!u) return;
  const [from, to] = shownRange(props);
  const centre = around ?? props.view.at_s ?? (from + to) / 2;
  const inside = centre >= from && centre <= to ? centre : (from + to) / 2;
  const narrowest = Math.min(0.2, props.view.duration_s);
  const width = Math.max(narrowest, (to - from) * factor);
  if (width >= props.view.duration_s) {
    props.onRange(null);
    return;
  }
  const share = (inside - from) / (to - from);
  const start = Math.min(Math.max(0, inside - share * width), props.view.duration_s - width);
  props.onRange([start, start + width]);
}

/** Wheel zoom, drag pan and click; returns what takes them away again. */
export function attach(u: uPlot, latest: Latest): () => void {
  const over = u.over;
  let panning: { x: number; from: number; to: number; moved: boolean } | null = null;

  function onWheel(event: WheelEvent) {
    event.preventDefault();
    const at = u.posToVal(event.clientX - over.getBoundingClientRect().left, "x");
    zoomBy(u, latest.current, event.deltaY < 0 ? 0.8 : 1.25, at);
  }
  function onDown(event: MouseEvent) {
    if (event.button !== 0 || latest.current.selecting) return;
    const [from, to] = shownRange(latest.current);
    panning = { x: event.clientX, from, to, moved: false };
  }
  function onMove(event: MouseEvent) {
    if (!panning) return;
    const pixels = event.clientX - panning.x;
    if (Math.abs(pixels) > 3) panning.moved = true;
    const { range, view, onRange } = latest.current;
    if (!panning.moved || !range) return;
    const width = panning.to - panning.from;
    const by = (-pixels / over.clientWidth) * width;
    const from = Math.min(Math.max(0, panning.from + by), view.duration_s - width);
    onRange([from, from + width]);
  }
  function onUp(event: MouseEvent) {
    if (panning && !panning.moved) {
      latest.current.onAt(Math.max(0, u.posToVal(event.clientX - over.getBoundingClientRect().left, "x")));
    }
    panning = null;
  }
  over.addEventListener("wheel", onWheel, { passive: false });
  over.addEventListener("mousedown", onDown);
  window.addEventListener("mousemove", onMove);
  window.addEventListener("mouseup", onUp);
  return () => {
    over.removeEventListener("wheel", onWheel);
    over.removeEventListener("mousedown", onDown);
    window.removeEventListener("mousemove", onMove);
    window.removeEventListener("mouseup", onUp);
  };
}
