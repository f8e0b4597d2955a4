import type uPlot from "uplot";
import { attachPointer } from "../plot/pointer";
import type { LatestTake } from "./props";

const NARROWEST_S = 1e-4;

/** Wheel zooms about the pointer, drag moves or selects; returns what takes them away again. */
export function attach(u: uPlot, latest: LatestTake): () => void {
  let drag = { from: 0, to: 0, start: 0, isSelecting: false };
  return attachPointer(u, {
    onWheel(isUp, at) {
      const [from, to] = latest.current.shown;
      const span = Math.max(NARROWEST_S, (to - from) * (isUp ? 0.75 : 1 / 0.75));
      const start = at - ((at - from) / (to - from)) * span;
      latest.current.onWindow([start, start + span]);
    },
    onDown(event, at) {
      const [from, to] = latest.current.shown;
      drag = { from, to, start: at, isSelecting: latest.current.isSelecting || event.shiftKey };
      return true;
    },
    onDrag(pixels, at) {
      if (drag.isSelecting) {
        const [low, high] = latest.current.full;
        latest.current.onSelect([Math.max(low, Math.min(drag.start, at)), Math.min(high, Math.max(drag.start, at))]);
        return;
      }
      const by = (-pixels / u.over.clientWidth) * (drag.to - drag.from);
      latest.current.onWindow([drag.from + by, drag.to + by]);
    },
  });
}
