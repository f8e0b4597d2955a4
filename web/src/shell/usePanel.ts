import { type RefObject, useEffect, useRef } from "react";

const FIELDS = "input:not([type=hidden], :disabled), select:not(:disabled), textarea:not(:disabled)";

/** Marks an element in which keys are for its fields: no page key fires while it stands. */
export const HOLDS_KEYS = { "data-holds-keys": true } as const;

/** Whether a panel stands that holds the keys. */
export function areKeysHeld(): boolean {
  return document.querySelector("[data-holds-keys]") !== null;
}

/**
 * Puts the caret into the first field of a panel when it opens (or into the one that `wanted` finds),
 * again when `when` changes, and gives the focus back to where it was when the panel closes.
 */
export function usePanel<T extends HTMLElement>(wanted = FIELDS, when: unknown = null): RefObject<T | null> {
  const panel = useRef<T>(null);
  useEffect(() => {
    const opener = document.activeElement as HTMLElement | null;
    return () => {
      if (document.activeElement === document.body || !document.activeElement?.isConnected) {
        if (opener?.isConnected && opener !== document.body) opener.focus();
        else document.getElementById("work")?.focus();
      }
    };
  }, []);
  useEffect(() => {
    const element = panel.current;
    if (!element || element.contains(document.activeElement)) return;
    const field = element.querySelector<HTMLElement>(wanted) ?? element.querySelector<HTMLElement>(FIELDS);
    field?.focus();
    if (field instanceof HTMLInputElement) field.select();
  }, [wanted, when]);
  return panel;
}
