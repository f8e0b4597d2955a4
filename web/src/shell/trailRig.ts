import { useEffect } from "react";
import { type Rig, useRig } from "../api/queries";

const KEY = "tickstone-rig";

/**
 * The rig on the trail: the page's own; while that loads, and on pages of no rig, the one before, so that
 * nothing on the trail comes and goes. null: the page is about all rigs.
 */
export function useTrailRig(own: Rig | null | undefined): Rig | undefined {
  const before = useRig(own === undefined ? remembered() : 0);
  const id = own?.id;
  useEffect(() => {
    if (id !== undefined) remember(id);
  }, [id]);
  if (own === null) return undefined;
  return own ?? before.data;
}

function remembered(): number {
  try {
    return Number(sessionStorage.getItem(KEY)) || 0;
  } catch {
    return 0;
  }
}

function remember(id: number): void {
  try {
    sessionStorage.setItem(KEY, String(id));
  } catch {
    // Without it the trail fills a moment later.
  }
}
