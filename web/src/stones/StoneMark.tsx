import type { Stone } from "../api/queries";

const PEBBLE =
  "M9 4.5c5-2.6 12-2 16 1.6 4.2 4 4.6 11 1.2 15.8C22.6 27 14.8 29.6 9 27.2 " +
  "3.4 25 1.6 18.8 2.4 13.2 3 9.2 5.4 6.4 9 4.5Z";

export const STATE_WORDS: Record<Stone["state"], string> = {
  hollow: "not done yet",
  ticked: "done, and it holds",
  stale: "done, but its grounds have changed",
  failing: "a check says no",
  absent: "no bench for this yet",
};

/** A stone: its state by shape as well as by colour. */
export function StoneMark({ state, size = 32 }: { state: Stone["state"]; size?: number }) {
  if (state === "absent")
    return (
      <span className="stone-absent" aria-hidden="true">
        –
      </span>
    );
  return (
    <svg className={`stone stone-${state}`} width={size} height={size} viewBox="0 0 32 32" aria-hidden="true">
      <path className="pebble" d={PEBBLE} />
      {state === "ticked" && <path className="sign" d="m9.5 16.6 4.6 4.500 8.600-9.400" />}
      {state === "stale" && <path className="sign" d="m17.500 4-4 7.500 5 3.500-4 6 2.500 6.500" />}
      {state === "failing" && <path className="sign" d="m11 11 10 10m0-10-10 10" />}
    </svg>
  );
}
