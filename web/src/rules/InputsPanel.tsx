import Button from "react-bootstrap/Button";
import { FieldText, Seconds, WordChoice } from "./fields";
import type { RulesBench } from "./queries";
import { type Rules, freeName, withInput } from "./rules";

interface Props {
  rules: Rules;
  bench: RulesBench;
  onChange: (rules: Rules) => void;
}

const labelOf = (words: RulesBench["together_words"], name: string) =>
  words.find((one) => one.name === name)?.label ?? name;

const keyOf = (sensor: number | string, output: string) => `${sensor} ${output}`;

/** What the rules look at, how old it may be, and what counts when it is not there. */
export function InputsPanel({ rules, bench, onChange }: Props) {
  const offered = bench.offered.filter((one) => one.is_set);
  const words = offered.map((one) => keyOf(one.sensor_id, one.output.name));
  const said = new Map(
    offered.map((one) => [keyOf(one.sensor_id, one.output.name), `${one.sensor}: ${one.output.label.toLowerCase()}`]),
  );
  const taken = rules.inputs.map((one) => one.name);
  const own = rules.inputs.filter((one) => !one.together).map((one) => one.name);
  const blind = rules.when_blind ?? {};
  const how = blind.how ?? "hold";
  const holds = how === "hold" || how === "last";
  const setBlind = (change: NonNullable<Rules["when_blind"]>) =>
    onChange({ ...rules, when_blind: { ...blind, ...change } });
  return (
    <div className="inputs-panel">
      <table className="mark-table">
        <thead>
          <tr>
            <th scope="col">Called</th>
            <th scope="col">Is</th>
            <th scope="col" title="An older reading counts as none">
              No older than
            </th>
            <th scope="col">Words to use</th>
            <th scope="col">
              <span className="visually-hidden">change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rules.inputs.map((one, place) => {
            const at = offered.find(
              (o) => keyOf(o.sensor_id, o.output.name) === keyOf(one.sensor ?? "", one.output ?? ""),
            );
            const unit = at?.output.quantity.shown.metric.unit ?? "";
            const change = (next: Parameters<typeof withInput>[2]) => onChange(withInput(rules, place, next));
            return (
              <tr key={place}>
                <td>
                  <FieldText
                    label={`Name of input ${place + 1}`}
                    hideLabel
                    value={one.name}
                    onChange={(name) =>
                      change({
                        name: freeName(
                          name,
                          taken.filter((other) => other !== one.name),
                        ),
                      })
                    }
                  />
                </td>
                <td>
                  {one.together ? (
                    <WordChoice
                      label={`How ${one.name} is put together`}
                      hideLabel
                      value={one.together}
                      words={bench.together_words.map((word) => word.name)}
                      said={(name) => [labelOf(bench.together_words, name), (one.of ?? []).join(", ")].join(": ")}
                      onChange={(together) =>
                        change({ together, us: together === "trust" ? (one.of ?? []).map(() => 0.01) : [] })
                      }
                    />
                  ) : (
                    <WordChoice
                      label={`What ${one.name} is`}
                      hideLabel
                      value={one.sensor ? keyOf(one.sensor, one.output ?? "") : ""}
                      words={words}
                      said={(key) => said.get(key) ?? key}
                      onChange={(key) => {
                        const [sensor = "", output = ""] = key.split(" ");
                        change({ sensor, output });
                      }}
                    />
                  )}
                </td>
                <td>
                  <Seconds
                    label={`${one.name} is no older than`}
                    hideLabel
                    value={one.longest_s ?? 0.5}
                    onChange={(longest_s) => longest_s !== null && longest_s > 0 && change({ longest_s })}
                  />
                </td>
                <td className="quiet input-words">
                  {at && at.output.quantity.states.length > 0
                    ? at.output.quantity.states.map((state) => state.name).join(", ")
                    : at
                      ? `a number${unit ? ` in ${unit}` : ""}`
                      : one.together
                        ? "a number"
                        : "choose what it is"}
                </td>
                <td className="row-actions">
                  <Button
                    size="sm"
                    variant="outline-danger"
                    aria-label={`Take out ${one.name}`}
                    onClick={() => onChange({ ...rules, inputs: rules.inputs.filter((_, n) => n !== place) })}
                  >
                    ×
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="inputs-foot">
        <Button
          size="sm"
          variant="outline-primary"
          disabled={offered.length === 0}
          onClick={() => {
            const used = new Set(rules.inputs.map((one) => keyOf(one.sensor ?? "", one.output ?? "")));
            const free = offered.find((one) => !used.has(keyOf(one.sensor_id, one.output.name))) ?? offered[0];
            if (!free) return;
            const name = freeName(free.output.name, taken);
            const fresh = { name, sensor: String(free.sensor_id), output: free.output.name, longest_s: 0.5 };
            onChange({ ...rules, inputs: [...rules.inputs, fresh] });
          }}
        >
          Look at more
        </Button>
        {own.length > 1 && (
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => {
              const alike = own.slice(0, 2);
              const fresh = { name: freeName("nearest", taken), together: "nearest", of: alike, longest_s: 0.5 };
              onChange({ ...rules, inputs: [...rules.inputs, fresh] });
            }}
          >
            Put two together
          </Button>
        )}
        <WordChoice
          label="Blind, readings"
          value={how}
          words={bench.blind_words.map((one) => one.name)}
          said={(name) => labelOf(bench.blind_words, name)}
          onChange={(next) => setBlind({ how: next })}
        />
        {holds && (
          <>
            <Seconds
              label="at most for"
              value={blind.hold_s ?? null}
              placeholder="ever"
              onChange={(hold_s) => setBlind({ hold_s })}
            />
            <WordChoice
              label="then"
              value={blind.go_to ?? ""}
              words={["", ...rules.states.map((one) => one.name)]}
              said={(name) => name || "nothing"}
              onChange={(go_to) => setBlind({ go_to })}
            />
          </>
        )}
        <SpeedField rules={rules} onChange={onChange} />
      </div>
    </div>
  );
}

function SpeedField({ rules, onChange }: Pick<Props, "rules" | "onChange">) {
  return (
    <FieldText
      label="Drives at, m/s"
      value={rules.speed_m_per_s == null ? "" : String(rules.speed_m_per_s)}
      onChange={(text) => {
        const number = Number(text.replace(",", "."));
        if (text.trim() === "") onChange({ ...rules, speed_m_per_s: null });
        else if (Number.isFinite(number) && number >= 0) onChange({ ...rules, speed_m_per_s: number });
      }}
    />
  );
}
