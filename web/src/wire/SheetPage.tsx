import Button from "react-bootstrap/Button";
import { Link, useParams } from "react-router";
import { Numbered } from "../shell/Nowhere";
import { Skeleton, Trouble } from "../shell/States";
import { Bill } from "./list/Bill";
import { inPhases } from "./list/ListView";
import { LoomDrawing, drawingSize } from "./loom/LoomDrawing";
import { PAPER } from "./loom/palette";
import { useLoom } from "./loom/useLoom";
import { ProgramLines } from "./list/ProgramLines";
import { Signatures } from "./list/Signatures";
import { type Wiring, type WiringStep, useWiring } from "./queries";

/** The sheet to wire from, on A4: loom, cautions, steps with boxes, bill of materials. */
export default function SheetPage() {
  return (
    <main className="sheet" data-bs-theme="light">
      <Numbered>
        <SheetOfRig />
      </Numbered>
    </main>
  );
}

function SheetOfRig() {
  const rigId = Number(useParams()["rigId"]);
  const wiring = useWiring(rigId);
  return (
    <>
      <Link className="sheet-back" to={`/rigs/${rigId}/wire/list`}>
        Back to the wiring list
      </Link>
      {wiring.isPending && <Skeleton lines={10} />}
      {wiring.isError && <Trouble error={wiring.error} />}
      {wiring.data && <Sheet wiring={wiring.data} />}
    </>
  );
}

function Sheet({ wiring }: { wiring: Wiring }) {
  const { model, layout } = useLoom(wiring);
  const cautions = [...new Set(wiring.steps.map((step) => step.caution).filter(Boolean))];
  const size = layout.data ? drawingSize(layout.data.model, layout.data.layout) : null;
  return (
    <>
      <header className="sheet-head">
        <div>
          <h1>{wiring.rig_name}, wiring sheet</h1>
          <p className="quiet">
            {wiring.board?.label ?? "no board chosen"} ·{" "}
            {new Date().toLocaleDateString(undefined, { dateStyle: "long" })}
          </p>
        </div>
        <Button size="sm" disabled={layout.isPending} onClick={() => window.print()}>
          Print
        </Button>
      </header>
      {wiring.findings.length > 0 && (
        <section className="sheet-findings">
          <h2>Findings that stand</h2>
          <ul>
            {wiring.findings.map((finding) => (
              <li key={finding.key}>
                <b>{finding.happens}:</b> {finding.message} {finding.repair}
              </li>
            ))}
          </ul>
        </section>
      )}
      {layout.isPending && <Skeleton lines={6} />}
      {layout.isError && <Trouble error={layout.error} retry={() => void layout.refetch()} />}
      {layout.data && size && model.threads.length + model.tabs.length + model.tags.length > 0 && (
        <LoomDrawing
          model={layout.data.model}
          layout={layout.data.layout}
          palette={{ ...PAPER, ground: "#ffffff" }}
          title={`How ${wiring.rig_name} is wired`}
          traced={null}
          onTrace={() => undefined}
          view={[0, 0, size[0], size[1]]}
        />
      )}
      <section className="sheet-cautions">
        <h2>Before you start</h2>
        <ul>
          {cautions.map((caution) => (
            <li key={caution}>{caution}</li>
          ))}
        </ul>
      </section>
      {wiring.steps.length > 0 && <p className="quiet">First box: done. Second box: seen by another person.</p>}
      {inPhases(wiring.steps).map(([heading, steps]) => (
        <section key={heading}>
          <h2>{heading}</h2>
          <ol className="sheet-steps">
            {steps.map((step) => (
              <li key={step.key}>
                <span className="box">{step.done ? "✓" : ""}</span>
                {step.needs_second ? <span className="box">{step.seen ? "✓" : ""}</span> : <span />}
                <span>
                  {step.text}
                  {step.low_v !== null &&
                    step.high_v !== null &&
                    ` Right: ${step.low_v.toFixed(2)} to ${step.high_v.toFixed(2)} V. ${measured(step)}`}
                </span>
              </li>
            ))}
          </ol>
        </section>
      ))}
      <ProgramLines program={wiring.program} />
      <Bill lines={wiring.bill} />
      <Signatures wiring={wiring} />
      {wiring.unsigned > 0 && (
        <p className="sheet-names">Wired by ____________________ Looked over by ____________________</p>
      )}
    </>
  );
}

function measured(step: WiringStep): string {
  if (step.measured_v === null && step.skipped_why) return `Not measured: ${step.skipped_why}.`;
  return `Measured: ${step.measured_v ?? "______"} V.`;
}
