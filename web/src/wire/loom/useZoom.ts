import { type KeyboardEvent, type RefObject, useState } from "react";
import type { Point } from "./geometry";

interface Look {
  scale: number;
  x: number;
  y: number;
}

const WHOLE: Look = { scale: 1, x: 0, y: 0 };

/** What part of a drawing is looked at, and the ways to move it. */
export function useZoom(svg: RefObject<SVGSVGElement | null>, width: number, height: number) {
  const [look, setLook] = useState(WHOLE);
  const view: [number, number, number, number] = [look.x, look.y, width / look.scale, height / look.scale];

  function kept(next: Look): Look {
    const most = (size: number) => size - size / next.scale;
    return {
      scale: next.scale,
      x: Math.min(Math.max(0, next.x), most(width)),
      y: Math.min(Math.max(0, next.y), most(height)),
    };
  }

  function zoom(factor: number, at?: Point) {
    setLook((before) => {
      const scale = Math.min(8, Math.max(1, before.scale * factor));
      const centre = at ?? { x: before.x + width / before.scale / 2, y: before.y + height / before.scale / 2 };
      const ratio = before.scale / scale;
      return kept({ scale, x: centre.x - (centre.x - before.x) * ratio, y: centre.y - (centre.y - before.y) * ratio });
    });
  }

  function pan(dx: number, dy: number) {
    setLook((before) => kept({ ...before, x: before.x + dx, y: before.y + dy }));
  }

  /** Moves by so many points of the screen. */
  function panOnScreen(dx: number, dy: number) {
    const scale = svg.current?.getScreenCTM()?.a ?? 1;
    pan(dx / scale, dy / scale);
  }

  /** A point of the screen in the drawing. */
  function drawn(event: { clientX: number; clientY: number }): Point {
    const matrix = svg.current?.getScreenCTM();
    return matrix ? new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()) : { x: 0, y: 0 };
  }

  /** Whether a key moved it. */
  function onKey(event: KeyboardEvent): boolean {
    const step = width / look.scale / 12;
    const moves: Record<string, () => void> = {
      "+": () => zoom(1.25),
      "-": () => zoom(0.8),
      "0": () => setLook(WHOLE),
      ArrowLeft: () => pan(-step, 0),
      ArrowRight: () => pan(step, 0),
      ArrowUp: () => pan(0, -step),
      ArrowDown: () => pan(0, step),
    };
    moves[event.key]?.();
    return event.key in moves;
  }

  return { view, zoom, panOnScreen, drawn, onKey, whole: () => setLook(WHOLE) };
}
