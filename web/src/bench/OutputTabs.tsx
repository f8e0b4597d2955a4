import type { OutputSeen } from "../api/queries";

interface Props {
  outputs: OutputSeen[];
  chosen: string;
  onChoose: (name: string) => void;
}

/** What the sensor tells, each with its reading in hand; the one chosen stands in the working line. */
export function OutputTabs({ outputs, chosen, onChoose }: Props) {
  return (
    <div className="output-tabs" role="tablist" aria-label="What it tells">
      {outputs.map((one) => (
        <button
          key={one.name}
          type="button"
          role="tab"
          aria-selected={one.name === chosen}
          onClick={() => onChoose(one.name)}
        >
          {one.label} <b>{readingOf(one)}</b>
        </button>
      ))}
    </div>
  );
}

/** The reading in hand: of two lanes both, of more only how many they are. */
function readingOf(output: OutputSeen): string {
  const last = output.working.at(-1);
  const lanes = output.quantity.lanes.length;
  if (lanes > 2) return `${lanes} lanes`;
  if (!last) return "–";
  if (lanes === 1 && last.value === null) return last.status_word;
  return `${[last, ...last.others].map((lane) => lane.shown).join(" ")} ${last.shown_unit}`;
}
