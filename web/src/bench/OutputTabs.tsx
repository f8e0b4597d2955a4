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
      {outputs.map((one) => {
        const last = one.working.at(-1);
        const lanes = one.quantity.lanes.length;
        return (
          <button
            key={one.name}
            type="button"
            role="tab"
            aria-selected={one.name === chosen}
            onClick={() => onChoose(one.name)}
          >
            {one.label}{" "}
            <b>
              {lanes > 2
                ? `${lanes} lanes`
                : lanes > 1
                  ? last
                    ? `${[last, ...last.others].map((lane) => lane.shown).join(" ")} ${last.shown_unit}`
                    : "–"
                  : last
                    ? last.value === null
                      ? last.status_word
                      : `${last.shown} ${last.shown_unit}`
                    : "–"}
            </b>
          </button>
        );
      })}
    </div>
  );
}
