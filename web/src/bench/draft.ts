import type { Air, Parameters } from "../api/queries";

/** What is being tried out and not yet saved. */
export interface Draft {
  air: Air | null;
  parameters: Parameters | null;
  threshold: { stop_m: number; go_m: number } | null;
}

export const NOTHING_TRIED: Draft = { air: null, parameters: null, threshold: null };
