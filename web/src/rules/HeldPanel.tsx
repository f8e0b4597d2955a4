import Button from "react-bootstrap/Button";
import { FieldText, Seconds, Tick, WordChoice } from "./fields";
import type { Held } from "./MachinePicture";
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
  held: Held;
  checked: Checked | undefined;
  onChange: (rules: Rules) => void;
  onHold: (held: Held) => void;
}

/** What is in hand on the picture, to be changed. */
export function HeldPanel({ rules, held, checked, onChange, onHold }: Props) {
  const names = rules.states.map((one) => one.name);
  if (held?.kind === "state") {
    const state = rules.states[held.place];
    if (!state) return null;
    const change = (next: Parameters<typeof withState>[2]) => onChange(withState(rules, held.place, next));
    return (
      <section className="panel held-panel" aria-label={`State ${state.name}`}>
        <h2>State</h2>
        <div className="held-fields">
          <FieldText
            label="Name"
            value={state.name}
            onChange={(name) =>
              change({
                name: freeName(
                  name,
                  names.filter((one) => one !== state.name),
                ),
              })
            }
          />
          <FieldText label="On entering it" value={state.action ?? ""} onChange={(action) => change({ action })} wide />
          <Seconds
            label="Stays at least"
            value={state.stay_s ?? 0}
            onChange={(stay_s) => change({ stay_s: stay_s ?? 0 })}
          />
          <Seconds
            label="Left after"
            value={state.leave_after_s ?? null}
            placeholder="never"
            onChange={(seconds) => change(leftAfter(rules, state, seconds))}
          />
          {state.leave_after_s != null && (
            <WordChoice
              label="for"
              value={state.leave_to ?? ""}
              words={names.filter((one) => one !== state.name)}
              onChange={(leave_to) => change({ leave_to })}
            />
          )}
        </div>
        <div className="held-ticks">
          <Tick label="The rig moves in it" value={state.moves ?? false} onChange={(moves) => change({ moves })} />
          <Tick
            label="Wants an eye kept on"
            value={state.is_alarm ?? false}
            onChange={(is_alarm) => change({ is_alarm })}
          />
          {state.leave_after_s != null && (
            <Tick
              label="The program only waits: it looks at nothing"
              value={state.is_blocking ?? false}
              onChange={(is_blocking) => change({ is_blocking })}
            />
          )}
        </div>
        <div className="panel-actions">
          {rules.start !== state.name && (
            <Button size="sm" variant="outline-primary" onClick={() => onChange({ ...rules, start: state.name })}>
              Begin here
            </Button>
          )}
          {rules.states.length > 1 && (
            <Button
              size="sm"
              variant="outline-danger"
              onClick={() => {
                onChange(withoutState(rules, held.place));
                onHold(null);
              }}
            >
              Take it out
            </Button>
          )}
        </div>
      </section>
    );
  }
  if (held?.kind === "transition") {
    const one = rules.transitions[held.place];
    if (!one) return null;
    const change = (next: Parameters<typeof withTransition>[2]) => onChange(withTransition(rules, held.place, next));
    return (
      <section className="panel held-panel" aria-label={`Way ${held.place + 1}`}>
        <h2>
          Way {held.place + 1}: {one.leaves === ANY ? "anywhere" : one.leaves} → {one.to}
        </h2>
        <div className="held-fields">
          <FieldText label="When" value={one.when} onChange={(when) => change({ when })} wide mono />
          <Seconds label="Has stood for" value={one.for_s ?? 0} onChange={(for_s) => change({ for_s: for_s ?? 0 })} />
          <WordChoice
            label="Leaves"
            value={one.leaves}
            words={[ANY, ...names].filter((name) => name !== one.to)}
            onChange={(leaves) => change({ leaves })}
          />
          <WordChoice
            label="for"
            value={one.to}
            words={names.filter((name) => name !== one.leaves)}
            onChange={(to) => change({ to })}
          />
        </div>
        <p className="quiet held-said">{checked?.transitions[held.place]?.said}</p>
        <div className="held-ticks">
          <Tick label="Cuts a stay short" value={one.at_once ?? false} onChange={(at_once) => change({ at_once })} />
        </div>
        <div className="panel-actions">
          <Button
            size="sm"
            variant="outline-primary"
            disabled={held.place === 0}
            onClick={() => {
              onChange(movedUp(rules, held.place));
              onHold({ kind: "transition", place: held.place - 1 });
            }}
          >
            Let it win over {held.place}
          </Button>
          <Button
            size="sm"
            variant="outline-danger"
            onClick={() => {
              onChange(withoutTransition(rules, held.place));
              onHold(null);
            }}
          >
            Take it out
          </Button>
        </div>
      </section>
    );
  }
  return (
    <section className="panel held-panel" aria-label="How to">
      <p className="quiet">
        Take a stone or a number in hand to change it. Lead a way from the dot at a stone’s side to another stone.
      </p>
    </section>
  );
}
