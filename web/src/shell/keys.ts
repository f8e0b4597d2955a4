import { useLayoutEffect, useRef } from "react";
import { areKeysHeld } from "./usePanel";

/** Every key of the program, in the order the help lists them. */
export const KEYS = [
  { key: "?", does: "show these keys" },
  { key: "h", does: "home of the rig" },
  { key: "w", does: "wiring of the rig" },
  { key: "o", does: "programs for the rig’s board" },
  { key: "l", does: "line of the rig: listen live" },
  { key: "s", does: "rules of the rig: its states, replayed" },
  { key: "p", does: "controllers of the rig" },
  { key: "n", does: "open the next stone" },
  { key: "1 – 5", does: "Wired, Heard, Calibrated, Tuned, Driven of the sensor in hand" },
  { key: "r", does: "read out in figures that fill the window" },
  { key: "c", does: "record the line, and stop (Line)" },
  { key: "m", does: "mark a true value (Line, Calibrated)" },
  { key: "g", does: "be guided, hands free, while you hold it (Calibrated)" },
  { key: "k", does: "keep the calibration (Calibrated)" },
  { key: "i", does: "bring in a log (Heard)" },
  { key: "u", does: "undo the last change" },
  { key: "d", does: "light or dark" },
  { key: "Esc", does: "close what is open" },
  { key: "+  −  0", does: "zoom the plot or the loom in, out, all of it (with it in focus)" },
  { key: "←  →", does: "one reading back or on (Shift: move the window)" },
] as const;

const TYPING = "input:not([type=range], [type=checkbox], [type=radio]), textarea, select, [contenteditable=true]";

/**
 * Runs `handler` on a key, never while somebody types and never with Ctrl, Alt or Meta; while a
 * dialog is open, only the dialog's own keys work. Set before anything is painted: what is seen
 * answers at once.
 */
export function useKey(key: string, handler: (() => void) | null, inDialog = false): void {
  const latest = useRef(handler);
  useLayoutEffect(() => {
    latest.current = handler;
  });
  useLayoutEffect(() => {
    function onKey(event: KeyboardEvent) {
      if (event.key !== key || event.ctrlKey || event.altKey || event.metaKey) return;
      if (event.defaultPrevented || !latest.current) return;
      const target = event.target as HTMLElement | null;
      if (key !== "Escape" && target?.closest(TYPING)) return;
      if (!inDialog && document.querySelector(".modal.show")) return;
      if (!inDialog && key !== "Escape" && key !== "?" && areKeysHeld()) return;
      event.preventDefault();
      latest.current();
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [key, inDialog]);
}
