import type { Air, TrialDraft } from "../api/queries";
import type { Values } from "../units/inputs";

/** What is being tried out and not yet saved. */
export interface Draft {
  air: Air | null;
  parameters: Values | null;
  rule: { kind: string; parameters: Values } | null;
}

export const NOTHING_TRIED: Draft = { air: null, parameters: null, rule: null };

/** The same as the server takes it. calibrations: how the kind in hand is used. */
export function asTrial(draft: Draft, calibrations: NonNullable<TrialDraft["calibrations"]> = {}): TrialDraft {
  return { ...draft, calibrations };
}
