/** Rules as they are kept and edited: the document, and changes to it. */

export interface RuleInput {
  name: string;
  sensor?: string;
  output?: string;
  longest_s?: number;
  together?: string;
  of?: string[];
  us?: number[];
}

export interface RuleState {
  name: string;
  action?: string;
  stay_s?: number;
  leave_after_s?: number | null;
  leave_to?: string;
  is_blocking?: boolean;
  moves?: boolean;
  is_alarm?: boolean;
}

export interface RuleTransition {
  leaves: string;
  to: string;
  when: string;
  for_s?: number;
  at_once?: boolean;
}

export interface Rules {
  name: string;
  inputs: RuleInput[];
  start: string;
  states: RuleState[];
  transitions: RuleTransition[];
  when_blind?: { how?: string; hold_s?: number | null; go_to?: string };
  speed_m_per_s?: number | null;
}

export const ANY = "any";

/** A name that no other has, such as `state_3`. */
export function freeName(wanted: string, taken: string[]): string {
  const plain =
    wanted
      .toLowerCase()
      .replace(/[^a-z0-9_]+/g, "_")
      .replace(/^[^a-z]+/, "")
      .slice(0, 32) || "state";
  if (!taken.includes(plain) && plain !== ANY) return plain;
  let number = 2;
  while (taken.includes(`${plain}_${number}`)) number += 1;
  return `${plain}_${number}`;
}

export function withState(rules: Rules, place: number, change: Partial<RuleState>): Rules {
  const before = rules.states[place];
  if (!before) return rules;
  const states = rules.states.map((one, n) => (n === place ? { ...one, ...change } : one));
  const next = { ...rules, states };
  return change.name && change.name !== before.name ? renamed(next, before.name, change.name) : next;
}

/** Wherever a state is spoken of, by its new name. */
function renamed(rules: Rules, old: string, name: string): Rules {
  const swap = (one: string) => (one === old ? name : one);
  return {
    ...rules,
    start: swap(rules.start),
    states: rules.states.map((one) => (one.leave_to === old ? { ...one, leave_to: name } : one)),
    transitions: rules.transitions.map((one) => ({ ...one, leaves: swap(one.leaves), to: swap(one.to) })),
    ...(rules.when_blind?.go_to === old ? { when_blind: { ...rules.when_blind, go_to: name } } : {}),
  };
}

/** Without a state, and without whatever leads from or to it. */
export function withoutState(rules: Rules, place: number): Rules {
  const gone = rules.states[place]?.name;
  const states = rules.states
    .filter((_, n) => n !== place)
    .map((one) => (one.leave_to === gone ? { ...one, leave_after_s: null, leave_to: "", is_blocking: false } : one));
  return {
    ...rules,
    states,
    start: rules.start === gone ? (states[0]?.name ?? "") : rules.start,
    transitions: rules.transitions.filter((one) => one.leaves !== gone && one.to !== gone),
    ...(rules.when_blind?.go_to === gone ? { when_blind: { ...rules.when_blind, go_to: "" } } : {}),
  };
}

/** How a state is changed that is left after so long for another; after nothing it is not left by time. */
export function leftAfter(rules: Rules, state: RuleState, leave_after_s: number | null): Partial<RuleState> {
  if (leave_after_s === null) return { leave_after_s: null, leave_to: "", is_blocking: false };
  const other = rules.states.find((one) => one.name !== state.name)?.name ?? "";
  return { leave_after_s, leave_to: state.leave_to || other };
}

export function withTransition(rules: Rules, place: number, change: Partial<RuleTransition>): Rules {
  return { ...rules, transitions: rules.transitions.map((one, n) => (n === place ? { ...one, ...change } : one)) };
}

export function withoutTransition(rules: Rules, place: number): Rules {
  return { ...rules, transitions: rules.transitions.filter((_, n) => n !== place) };
}

/** One place up in the list: it wins over the one that stood there. */
export function movedUp(rules: Rules, place: number): Rules {
  if (place < 1) return rules;
  const transitions = [...rules.transitions];
  const [one] = transitions.splice(place, 1);
  if (one) transitions.splice(place - 1, 0, one);
  return { ...rules, transitions };
}

/** An input, and its name in every condition that speaks of it. */
export function withInput(rules: Rules, place: number, change: Partial<RuleInput>): Rules {
  const before = rules.inputs[place];
  if (!before) return rules;
  const inputs = rules.inputs.map((one, n) => (n === place ? { ...one, ...change } : one));
  if (!change.name || change.name === before.name) return { ...rules, inputs };
  const name = change.name;
  const word = new RegExp(`\\b${before.name}\\b`, "g");
  return {
    ...rules,
    inputs: inputs.map((one) =>
      one.of ? { ...one, of: one.of.map((other) => (other === before.name ? name : other)) } : one,
    ),
    transitions: rules.transitions.map((one) => ({ ...one, when: one.when.replace(word, name) })),
  };
}
