import { Link } from "react-router";
import { StepRow } from "../../wire/list/StepRow";
import type { WiredDevice, Wiring } from "../../wire/queries";

/** The steps of the wiring list that are about one device, to be ticked here as well. */
export function OwnSteps({ wiring, device }: { wiring: Wiring; device: WiredDevice }) {
  const own = wiring.steps.filter((step) => step.device === device.id);
  const done = own.filter((step) => step.is_complete).length;
  return (
    <section className="panel wiring-list" aria-label="Its steps">
      <h2>String its wires</h2>
      {own.length === 0 ? (
        <p>Give its leads a place first; the steps follow from that.</p>
      ) : (
        <>
          <p className="quiet">
            Power off. {done} of {own.length} steps complete, and the list of the whole rig goes on to the first power.
          </p>
          <ol className="steps">
            {own.map((step) => (
              <StepRow key={step.key} wiring={wiring} step={step} />
            ))}
          </ol>
        </>
      )}
      <p className="panel-actions">
        <Link className="btn btn-sm btn-primary" to={`/rigs/${wiring.rig_id}/wire/list`}>
          {device.wired.state === "ticked" ? "Open the wiring list" : "Go through the whole list, and sign it"}
        </Link>
        <Link className="btn btn-sm btn-outline-primary" to={`/rigs/${wiring.rig_id}/wire/loom`}>
          See the loom
        </Link>
      </p>
    </section>
  );
}
