import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Wiring, type WiringStep, useWiringChanges } from "../queries";
import { Signatures } from "./Signatures";

/** Names under the wiring: who made it, and who looked it over, or why nobody did. */
export function SignPanel({ wiring }: { wiring: Wiring }) {
  const [wiredBy, setWiredBy] = useState("");
  const [lookedBy, setLookedBy] = useState("");
  const [isAlone, setAlone] = useState(false);
  const [aloneWhy, setAloneWhy] = useState("");
  const [wires, setWires] = useState(false);
  const changes = useWiringChanges(wiring);

  if (wiring.unsigned === 0) {
    return (
      <section className="sign-line">
        <p>Every device’s wiring is noted as right, and is what was looked at.</p>
        <Signatures wiring={wiring} />
      </section>
    );
  }
  const errors = wiring.findings.filter((finding) => finding.severity === "error");
  const open = openSteps(wiring.steps);
  const hasNames = wiredBy.trim() !== "" && (isAlone ? aloneWhy.trim() : lookedBy.trim()) !== "";
  const isReady = errors.length === 0 && open.wrong.length === 0 && open.byHand.length === 0;
  return (
    <form
      className="panel sign-panel"
      aria-label="Note the wiring as right"
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        void changes.sign({
          wired_by: wiredBy,
          looked_by: isAlone ? null : lookedBy,
          alone_why: isAlone ? aloneWhy : "",
          wires,
        });
      }}
    >
      <h2>Note the wiring as right</h2>
      {errors.length > 0 && <p className="is-bad">A check says no: {errors[0]?.message} Mend it first.</p>}
      {open.wrong.length > 0 && (
        <p className="is-bad">What was measured is not what should be. Unplug, and find out why.</p>
      )}
      <Left steps={open.byHand} what="to be ticked one by one, by whoever stands at the bench" />
      <Left steps={open.unmeasured} what="to be measured, or skipped with a reason" />
      <div className="fields">
        <NameField id="wired-by" label="Wired by" value={wiredBy} onChange={setWiredBy} />
        {isAlone ? (
          <NameField
            id="alone-why"
            label="Why nobody else looked it over"
            value={aloneWhy}
            onChange={setAloneWhy}
            isLong
          />
        ) : (
          <NameField id="looked-by" label="Looked over by" value={lookedBy} onChange={setLookedBy} />
        )}
      </div>
      <Form.Check
        id="alone"
        label="I am alone: I looked at each a second time myself"
        checked={isAlone}
        onChange={(event) => setAlone(event.target.checked)}
      />
      {open.wires.length > 0 && (
        <Form.Check
          id="wires"
          label={
            open.wires.length === 1
              ? "The wire left is done and seen as the list says"
              : `The ${open.wires.length} wires left are done and seen as the list says`
          }
          checked={wires}
          onChange={(event) => setWires(event.target.checked)}
        />
      )}
      <div className="panel-actions">
        <Button
          type="submit"
          size="sm"
          disabled={!isReady || open.unmeasured.length > 0 || (open.wires.length > 0 && !wires) || !hasNames}
        >
          {isAlone ? "I have looked twice; it is right" : "Both have looked; it is right"}
        </Button>
      </div>
    </form>
  );
}

/** What stands against a signature, by what has to be done about it. */
function openSteps(steps: WiringStep[]) {
  const open = steps.filter((step) => !step.is_complete);
  return {
    byHand: open.filter((step) => step.is_by_hand),
    wires: open.filter((step) => !step.is_by_hand && step.low_v === null),
    unmeasured: open.filter((step) => step.low_v !== null && step.passes === null),
    wrong: open.filter((step) => step.passes === false),
  };
}

function Left({ steps, what }: { steps: WiringStep[]; what: string }) {
  if (steps.length === 0) return null;
  return (
    <p>
      {steps.length === 1 ? "One step is" : `${steps.length} steps are`} left {what}; the first: “{steps[0]?.text}”
    </p>
  );
}

interface NameProps {
  id: string;
  label: string;
  value: string;
  onChange: (value: string) => void;
  isLong?: boolean;
}

function NameField({ id, label, value, onChange, isLong = false }: NameProps) {
  return (
    <Form.Group controlId={id} className={`quantity ${isLong ? "wide" : "name"}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control
        size="sm"
        required
        maxLength={120}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Form.Group>
  );
}
