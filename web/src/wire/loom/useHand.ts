import { type PointerEvent, type RefObject, useRef, useState } from "react";
import type { Bead } from "../queries";
import type { Point } from "./geometry";

/** What is in hand over the loom: an end to be led somewhere, or a part to be strung on a thread. */
export type Hand = { target: string | null; at: Point | null } & (
  { what: "end"; id: string } | { what: "part"; kind: Bead["kind"] }
);

interface Options {
  frame: RefObject<HTMLDivElement | null>;
  /** A point of the screen in the drawing. */
  drawn: (event: { clientX: number; clientY: number }) => Point;
  /** Whether what is in hand may go to a place. */
  isTarget: (hand: Hand, place: string) => boolean;
  onDrop: (hand: Hand, place: string) => void;
}

/** So many points of the screen a press may wander and still be a click. */
const STILL = 5;

/**
 * Takes, leads and drops, by dragging or by a click to take and another to drop, and by keys.
 * Pressing outside every place puts back what is in hand.
 */
export function useHand({ frame, drawn, isTarget, onDrop }: Options) {
  const [hand, setHand] = useState<Hand | null>(null);
  const pressed = useRef<{ x: number; y: number; isTaking: boolean } | null>(null);

  function under(now: Hand, event: { clientX: number; clientY: number }): string | null {
    const hit = document.elementFromPoint(event.clientX, event.clientY)?.closest<SVGElement>("[data-place]");
    const place = hit?.dataset["place"];
    return place !== undefined && isTarget(now, place) ? place : null;
  }

  function drop(now: Hand, place: string) {
    setHand(null);
    onDrop(now, place);
  }

  return {
    hand,
    take: (id: string) => {
      setHand({ what: "end", id, target: null, at: null });
      frame.current?.focus();
    },
    /** A part, from the tray; pressed there, it may be dragged on at once. */
    takePart: (kind: Bead["kind"], event?: PointerEvent) => {
      pressed.current = event ? { x: event.clientX, y: event.clientY, isTaking: true } : null;
      setHand({ what: "part", kind, target: null, at: null });
    },
    putBack: () => setHand(null),
    aim: (target: string) => setHand((now) => now && { ...now, target, at: null }),
    drop,
    /** Whether the press is the hand's business. */
    press: (event: PointerEvent): boolean => {
      const id = (event.target as Element).closest<SVGElement>("[data-lead]")?.dataset["lead"];
      if (event.button !== 0 || (!hand && id === undefined)) return false;
      pressed.current = { x: event.clientX, y: event.clientY, isTaking: !hand };
      if (!hand && id !== undefined) setHand({ what: "end", id, target: null, at: null });
      return true;
    },
    /** Whether something is in hand, so that the move is the hand's business. */
    move: (event: { clientX: number; clientY: number }): boolean => {
      if (!hand) return false;
      setHand({ ...hand, at: drawn(event), target: under(hand, event) });
      return true;
    },
    /** Whether something was in hand when the button came up. */
    release: (event: { clientX: number; clientY: number }): boolean => {
      const press = pressed.current;
      pressed.current = null;
      if (!hand || !press) return hand !== null;
      const isStill = Math.hypot(event.clientX - press.x, event.clientY - press.y) < STILL;
      if (isStill && press.isTaking) return true;
      const place = under(hand, event);
      if (place === null) setHand(null);
      else drop(hand, place);
      return true;
    },
  };
}
