import Button from "react-bootstrap/Button";
import { FieldText, Seconds, Tick, WordChoice } from "./fields";
import type { Checked } from "./queries";
import {
  ANY,
  type Rules,
  freeName,
  leftAfter,
  movedUp,
  withState,
  withTransition,
  withoutState,
  withoutTransition,
} from "./rules";

interface Props {
  rules: Rules;
  checked: Checked | undefined;
  onChange: (rules: Rules) => void;
}

/** The same machine as two tables: its states, and what leads from one to another. */
export function RulesTable({ rules, checked, onChange }: Props) {
  const names = rules.states.map((one) => one.name);
  return (
    <div className="rules-tables">
      <table className="mark-table rules-states">
        <thead>
          <tr>
            <th scope="col">State</th>
            <th scope="col">On entering it</th>
            <th scope="col">Stays at least</th>
            <th scope="col">Left after</th>
            <th scope="col">for</th>
            <th scope="col">Moves</th>
            <th scope="col">
              <span className="visually-hidden">change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rules.states.map((state, place) => {
            const change = (next: Parameters<typeof withState>[2]) => onChange(withState(rules, place, next));
            const others = names.filter((one) => one !== state.name);
            return (
              <tr key={place}>
                <td>
                  <FieldText
                    label={`Name of state ${place + 1}`}
                    hideLabel
                    value={state.name}
                    onChange={(name) => change({ name: freeName(name, others) })}
                  />
                </td>
                <td>
                  <FieldText
                    label={`On entering ${state.name}`}
                    hideLabel
                    value={state.action ?? ""}
                    onChange={(action) => change({ action })}
                  />
                </td>
                <td>
                  <Seconds
                    label={`${state.name} stays at least`}
                    hideLabel
                    value={state.stay_s ?? 0}
                    onChange={(stay_s) => change({ stay_s: stay_s ?? 0 })}
                  />
                </td>
                <td>
                  <Seconds
                    label={`${state.name} is left after`}
                    hideLabel
                    placeholder="never"
                    value={state.leave_after_s ?? null}
                    onChange={(seconds) => change(leftAfter(rules, state, seconds))}
                  />
                </td>
                <td>
                  {state.leave_after_s != null && (
                    <WordChoice
                      label={`${state.name} is left for`}
                      hideLabel
                      value={state.leave_to ?? ""}
                      words={others}
                      onChange={(leave_to) => change({ leave_to })}
                    />
                  )}
                </td>
                <td>
                  <Tick label="" value={state.moves ?? false} onChange={(moves) => change({ moves })} />
                </td>
                <td className="row-actions">
                  {rules.start === state.name ? (
                    <span className="quiet">begins here</span>
                  ) : (
                    <Button
                      size="sm"
                      variant="outline-primary"
                      onClick={() => onChange({ ...rules, start: state.name })}
                    >
                      Begin here
                    </Button>
                  )}
                  {names.length > 1 && (
                    <Button
                      size="sm"
                      variant="outline-danger"
                      aria-label={`Take out ${state.name}`}
                      onClick={() => onChange(withoutState(rules, place))}
                    >
                      ×
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <table className="mark-table rules-ways">
        <thead>
          <tr>
            <th scope="col" title="The first whose turn it is wins">
              First
            </th>
            <th scope="col">Leaves</th>
            <th scope="col">for</th>
            <th scope="col">when</th>
            <th scope="col">has stood for</th>
            <th scope="col" title="It also cuts a stay short">
              At once
            </th>
            <th scope="col">
              <span className="visually-hidden">change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rules.transitions.map((one, place) => {
            const change = (next: Parameters<typeof withTransition>[2]) => onChange(withTransition(rules, place, next));
            return (
              <tr key={place}>
                <td className="figure">{place + 1}</td>
                <td>
                  <WordChoice
                    label={`Way ${place + 1} leaves`}
                    hideLabel
                    value={one.leaves}
                    words={[ANY, ...names].filter((name) => name !== one.to)}
                    said={(word) => (word === ANY ? "anywhere" : word)}
                    onChange={(leaves) => change({ leaves })}
                  />
                </td>
                <td>
                  <WordChoice
                    label={`Way ${place + 1} leads to`}
                    hideLabel
                    value={one.to}
                    words={names.filter((name) => name !== one.leaves)}
                    onChange={(to) => change({ to })}
                  />
                </td>
                <td className="when-cell">
                  <FieldText
                    label={`When, of way ${place + 1}`}
                    hideLabel
                    mono
                    wide
                    value={one.when}
                    onChange={(when) => change({ when })}
                  />
                  <span className="quiet">{checked?.transitions[place]?.said}</span>
                </td>
                <td>
                  <Seconds
                    label={`Way ${place + 1} has stood for`}
                    hideLabel
                    value={one.for_s ?? 0}
                    onChange={(for_s) => change({ for_s: for_s ?? 0 })}
                  />
                </td>
                <td>
                  <Tick label="" value={one.at_once ?? false} onChange={(at_once) => change({ at_once })} />
                </td>
                <td className="row-actions">
                  <Button
                    size="sm"
                    variant="outline-primary"
                    disabled={place === 0}
                    aria-label={`Move way ${place + 1} up`}
                    onClick={() => onChange(movedUp(rules, place))}
                  >
                    ↑
                  </Button>
                  <Button
                    size="sm"
                    variant="outline-danger"
                    aria-label={`Take out way ${place + 1}`}
                    onClick={() => onChange(withoutTransition(rules, place))}
                  >
                    ×
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
