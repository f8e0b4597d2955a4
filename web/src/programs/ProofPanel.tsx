import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Trouble } from "../shell/States";
import { type Proof, type Wanted, prove } from "./queries";

/** The same program, run on this machine against a made-up world: seen, not hoped. */
export function ProofPanel({ rigId, wanted }: { rigId: number; wanted: Wanted }) {
  const [proof, setProof] = useState<Proof | null>(null);
  const [isRunning, setIsRunning] = useState(false);
  const [error, setError] = useState<unknown>(null);

  async function run() {
    setIsRunning(true);
    setError(null);
    try {
      setProof(await prove(rigId, wanted));
    } catch (failure) {
      setError(failure);
    }
    setIsRunning(false);
  }

  return (
    <section className="program-proof" aria-label="Proof">
      <h2>Does it do that?</h2>
      <p className="panel-actions">
        <Button size="sm" variant="outline-primary" disabled={isRunning} onClick={() => void run()}>
          {isRunning ? "Running…" : proof ? "Run it again" : "Run it here"}
        </Button>
        {!proof && <span className="quiet">on a simulated board, with sensors that say what is known</span>}
      </p>
      {error !== null && <Trouble error={error} retry={() => void run()} />}
      {proof && <Outcome proof={proof} />}
    </section>
  );
}

function Outcome({ proof }: { proof: Proof }) {
  if (proof.missing.length > 0)
    return (
      <p role="status">
        It was not run. That takes {proof.where}; this machine lacks {proof.missing.join(" and ")}.
      </p>
    );
  return (
    <div role="status">
      {proof.too_large.length > 0 && (
        <div className="program-warning" role="note">
          <h3>It does not fit</h3>
          <ul>
            {proof.too_large.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
      {proof.told === 0 && proof.differs.length === 0 ? (
        <p>It was not run.</p>
      ) : proof.differs.length === 0 ? (
        <p>
          <b>Yes.</b> It ran on {proof.where}: {proof.told} values told, {proof.told} printed as they were told.
        </p>
      ) : (
        <>
          <p>
            <b>No.</b> It ran on {proof.where}, and printed otherwise than it was told:
          </p>
          <ul>
            {proof.differs.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </>
      )}
      {proof.parts.length > 0 && (
        <table className="program-parts">
          <thead>
            <tr>
              <th scope="col">Each, as if alone</th>
              <th scope="col">µs at most</th>
              <th scope="col">program, B</th>
              <th scope="col">memory, B</th>
            </tr>
          </thead>
          <tbody>
            {proof.parts.map((one) => (
              <tr key={one.name}>
                <th scope="row">{one.name}</th>
                <td className="figure">{one.us.toFixed(0)}</td>
                <td className="figure">{one.program_bytes}</td>
                <td className="figure">{one.memory_bytes}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {proof.cost.length > 0 && (
        <dl className="program-cost">
          {proof.cost.map((one) => (
            <div key={one.name}>
              <dt>{one.name}</dt>
              <dd className="figure">{one.value}</dd>
            </div>
          ))}
        </dl>
      )}
    </div>
  );
}
