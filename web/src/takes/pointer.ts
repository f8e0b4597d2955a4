import type uPlot from "uplot";
import type { LatestTake } from "./TakePlot";

const NARROWEST_S = 1e-4;

/** Wheel zooms about the pointer, drag moves or selects; returns what takes them away again. */
export function attachPointer(u: uPlot, latest: LatestTake): () => void {
  const over = u.over;
  let drag: { x: number; from: number; to: number; start: number; isSelecting: boolean } | null = null;

  const at = (event: MouseEvent) => u.posToVal(event.clientX - over.getBoundingClientRect().left, "x");

  function onWheel(event: WheelEvent) {
    event.preventDefault();
    const [from, to] = latest.current.shown;
    const centre = at(event);
    const factor = event.deltaY < 0 ? 0.75 : 1 / 0.75;
    const span = Math.max(NARROWEST_S, (to - from) * factor);
    const share = (centre - from) / (to - from);
    const start = centre - share * span;
    latest.current.onWindow([start, start + span]);
  }
  function onDown(event: MouseEvent) {
    if (event.button !== 0) return;
    const [from, to] = latest.current.shown;
    drag = { x: event.clientX, from, to, start: at(event), isSelecting: latest.current.isSelecting || event.shiftKey };
  }
  function onMove(event: MouseEvent) {
    if (!drag) return;
    if (Math.abs(event.clientX - drag.x) < 3) return;
    if (drag.isSelecting) {
      const here = at(event);
      const [low, high] = latest.current.full;
      latest.current.onSelect([Math.max(low, Math.min(drag.start, here)), Math.min(high, Math.max(drag.start, here))]);
      return;
    }
    const by = (-(event.clientX - drag.x) / over.clientWidth) * (drag.to - drag.from);
    latest.current.onWindow([drag.from + by, drag.to + by]);
  }
  function onUp() {
    drag = null;
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
