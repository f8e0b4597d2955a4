import type { Stone } from "../api/queries";
import { STATE_WORDS, StoneMark } from "./StoneMark";

const STATES: Stone["state"][] = ["hollow", "ticked", "stale", "failing", "absent"];

/** What each stone means. */
export function StoneLegend() {
  return (
    <ul className="stone-legend" aria-label="What the stones mean">
      {STATES.map((state) => (
        <li key={state}>
          <StoneMark state={state} size={18} /> {STATE_WORDS[state]}
        </li>
      ))}
    </ul>
  );
}
