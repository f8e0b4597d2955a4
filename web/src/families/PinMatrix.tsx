import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { ABILITIES } from "./abilities";
import { TakeOff } from "./TakeOff";
import { type Document, recordsAt, textAt, withValue } from "./document";

const USES = [
  { use: "none", words: "none" },
  { use: "serial", words: "serial line" },
  { use: "boot", words: "start-up" },
  { use: "lamp", words: "lamp" },
];

interface Props {
  document: Document;
  onChange: (next: Document) => void;
}

/** A board's pins, a row each, with a box for everything a pin can do. */
export function PinMatrix({ document, onChange }: Props) {
  const pins = recordsAt(document, "pins");
  const classes = recordsAt(document, "pin_classes").map((one) => String(one["name"]));
  const ports = recordsAt(document, "ports").map((one) => String(one["name"]));
  const put = (index: number, field: string, value: unknown) =>
    onChange(withValue(document, ["pins", index, field], value) as Document);
  const all = (next: Record<string, unknown>[]) => onChange({ ...document, pins: next });

  return (
    <section aria-label="Pins">
      <h3>Pins</h3>
      <div className="pin-matrix" tabIndex={0} role="region" aria-label="Pins and what they can do">
        <table>
          <thead>
            <tr>
              <th scope="col">pin</th>
              {ABILITIES.map(({ ability, short, words }) => (
                <th key={ability} scope="col" title={words}>
                  {short}
                </th>
              ))}
              {classes.length > 1 && <th scope="col">kind</th>}
              {ports.length > 0 && <th scope="col">port</th>}
              <th scope="col">board’s own use</th>
              <th scope="col">mind</th>
              <th>
                <span className="visually-hidden">take off</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {pins.map((pin, index) => {
              const name = String(pin["name"]);
              const able = Array.isArray(pin["abilities"]) ? pin["abilities"].map(String) : [];
              return (
                <tr key={index}>
                  <th scope="row">
                    <Form.Control
                      size="sm"
                      className="pin-name"
                      aria-label={`name of pin ${index + 1}`}
                      value={name}
                      onChange={(event) => put(index, "name", event.target.value)}
                    />
                  </th>
                  {ABILITIES.map(({ ability, words }) => (
                    <td key={ability} className="ability">
                      <Form.Check
                        aria-label={`${name}: ${words}`}
                        checked={able.includes(ability)}
                        onChange={(event) => {
                          const on = event.target.checked;
                          put(
                            index,
                            "abilities",
                            ABILITIES.map((one) => one.ability).filter((one) =>
                              one === ability ? on : able.includes(one),
                            ),
                          );
                        }}
                      />
                    </td>
                  ))}
                  {classes.length > 1 && (
                    <td>
                      <Choice
                        label={`${name}: kind`}
                        value={textAt(pin, ["pin_class"])}
                        options={classes.map((one) => [one, one])}
                        onChange={(next) => put(index, "pin_class", next)}
                      />
                    </td>
                  )}
                  {ports.length > 0 && (
                    <td>
                      <Choice
                        isShort
                        label={`${name}: port`}
                        value={textAt(pin, ["port"])}
                        options={[["", "–"], ...ports.map((one): [string, string] => [one, one])]}
                        onChange={(next) => put(index, "port", next || undefined)}
                      />
                    </td>
                  )}
                  <td>
                    <Choice
                      label={`${name}: the board’s own use`}
                      value={textAt(pin, ["use"]) || "none"}
                      options={USES.map(({ use, words }) => [use, words])}
                      onChange={(next) => put(index, "use", next === "none" ? undefined : next)}
                    />
                  </td>
                  <td>
                    <Form.Control
                      size="sm"
                      className="pin-caution"
                      aria-label={`${name}: what to mind`}
                      value={textAt(pin, ["caution"])}
                      onChange={(event) => put(index, "caution", event.target.value || undefined)}
                    />
                  </td>
                  <td>
                    <TakeOff
                      what={name}
                      words="Remove pin"
                      onClick={() => all(pins.filter((_, other) => other !== index))}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <Button
        size="sm"
        variant="outline-primary"
        onClick={() => all([...pins, another(pins, classes[0] ?? "standard")])}
      >
        Another pin
      </Button>
    </section>
  );
}

function Choice({
  label,
  value,
  options,
  onChange,
  isShort = false,
}: {
  isShort?: boolean;
  label: string;
  value: string;
  options: [string, string][];
  onChange: (next: string) => void;
}) {
  return (
    <Form.Select
      size="sm"
      className={isShort ? "short" : ""}
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {options.map(([option, words]) => (
        <option key={option} value={option}>
          {words}
        </option>
      ))}
    </Form.Select>
  );
}

/** Like the last pin, by the next number that is free. */
function another(pins: Record<string, unknown>[], pinClass: string): Record<string, unknown> {
  const last = pins.at(-1);
  const names = new Set(pins.map((pin) => String(pin["name"])));
  const [, stem = "P", digits = "0"] = /^(.*?)(\d*)$/.exec(String(last?.["name"] ?? "P0")) ?? [];
  let number = Number(digits || "0") + 1;
  while (names.has(`${stem}${number}`)) number += 1;
  return {
    name: `${stem}${number}`,
    pin_class: last?.["pin_class"] ?? pinClass,
    abilities: last?.["abilities"] ?? ["digital_in", "digital_out"],
  };
}
