import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Wiring, useWiringChanges } from "../queries";

/** Two names under the wiring: who made it, and who looked it over. */
export function SignPanel({ wiring }: { wiring: Wiring }) {
  const [wiredBy, setWiredBy] = useState("");
  const [lookedBy, setLookedBy] = useState("");
  const [rest, setRest] = useState(false);
  const changes = useWiringChanges(wiring);
  const errors = wiring.findings.filter((finding) => finding.severity === "error");
  const open = wiring.steps.filter((step) => !step.is_complete && step.low_v === null).length;
  const wrong = wiring.steps.filter((step) => step.passes === false).length;

  if (wiring.unsigned === 0) {
    return <p className="sign-line">Every device’s wiring is noted as right, and is what was looked at.</p>;
  }
  return (
    <form
      className="panel sign-panel"
      aria-label="Note the wiring as right"
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        void changes.sign({ wired_by: wiredBy, looked_by: lookedBy, rest });
      }}
    >
      <h2>Note the wiring as right</h2>
      {errors.length > 0 && <p className="is-bad">A check says no: {errors[0]?.message} Mend it first.</p>}
      {wrong > 0 && <p className="is-bad">What was measured is not what should be. Unplug, and find out why.</p>}
      <div className="fields">
        <Form.Group controlId="wired-by" className="quantity name">
          <Form.Label>Wired by</Form.Label>
          <Form.Control size="sm" required maxLength={120} value={wiredBy} onChange={(event) => setWiredBy(event.target.value)} />
        </Form.Group>
        <Form.Group controlId="looked-by" className="quantity name">
          <Form.Label>Looked over by</Form.Label>
          <Form.Control size="sm" required maxLength={120} value={lookedBy} onChange={(event) => setLookedBy(event.target.value)} />
        </Form.Group>
      </div>
      {open > 0 && (
        <Form.Check id="rest" className="mt-2" label={open === 1 ? "The one step left is done and seen as well" : `The other ${open} steps are done and seen as well`} checked={rest} onChange={(event) => setRest(event.target.checked)} />
      )}
      <div className="panel-actions">
        <Button type="submit" size="sm" disabled={errors.length > 0 || wrong > 0 || (open > 0 && !rest) || !wiredBy.trim() || !lookedBy.trim()}>
          Both have looked; it is right
        </Button>
      </div>
    </form>
  );
}
