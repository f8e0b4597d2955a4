import type uPlot from "uplot";

interface Gestures {
  /** The wheel turned, at this value of x. */
  onWheel: (isUp: boolean, at: number) => void;
  /** The left button went down. False when nothing is to follow. */
  onDown: (event: MouseEvent, at: number) => boolean;
  /** The pointer moved so many pixels to the right since then. */
  onDrag: (pixels: number, at: number) => void;
  /** The button was let go where it went down. */
  onClick?: (at: number) => void;
}

/** Less than this is an unsteady hand, not a drag; pixels. */
const STEADY = 3;

/** Tells wheel, drag and click on a plot apart; returns what takes the listeners away again. */
export function attachPointer(u: uPlot, gestures: Gestures): () => void {
  const over = u.over;
  let down: { x: number; isMoved: boolean } | null = null;
  const at = (event: MouseEvent) => u.posToVal(event.clientX - over.getBoundingClientRect().left, "x");

  function onWheel(event: WheelEvent) {
    event.preventDefault();
    gestures.onWheel(event.deltaY < 0, at(event));
  }
  function onDown(event: MouseEvent) {
    if (event.button === 0 && gestures.onDown(event, at(event))) down = { x: event.clientX, isMoved: false };
  }
  function onMove(event: MouseEvent) {
    if (!down) return;
    const pixels = event.clientX - down.x;
    if (Math.abs(pixels) > STEADY) down.isMoved = true;
    if (down.isMoved) gestures.onDrag(pixels, at(event));
  }
  function onUp(event: MouseEvent) {
    if (down && !down.isMoved) gestures.onClick?.(at(event));
    down = null;
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
