import { type ReactNode, useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import { NavLink, useParams } from "react-router";
import { Over } from "../shell/Over";
import { Skeleton, Trouble } from "../shell/States";
import { usePreferences } from "../shell/preferences";
import { BoardChooser } from "./plan/BoardChooser";
import { PlanView } from "./plan/PlanView";
import { FilesPanel } from "./FilesPanel";
import { WiringFindings } from "./WiringFindings";
import { ListView } from "./list/ListView";
import { LoomView } from "./loom/LoomView";
import { warmUp } from "./loom/layoutWorker";
import { type Wiring, useWiring, useWiringChanges } from "./queries";
import { TimeView } from "./time/TimeView";

const VIEWS = [
  { view: "plan", name: "Plan" },
  { view: "loom", name: "Loom" },
  { view: "list", name: "Wiring list" },
  { view: "time", name: "Time budget" },
] as const;

/** The wiring of a rig: plan, loom, list and time budget, with the findings beside them. */
export default function WirePage() {
  const params = useParams();
  const rigId = Number(params["rigId"]);
  const wiring = useWiring(rigId);
  useEffect(warmUp, []);
  return (
    <>
      {wiring.isPending && (
        <div className="page">
          <Skeleton lines={9} />
        </div>
      )}
      {wiring.isError && (
        <div className="page">
          <Trouble error={wiring.error} retry={() => void wiring.refetch()} />
        </div>
      )}
      {wiring.data && <WireBench wiring={wiring.data} view={params["view"] ?? "plan"} />}
    </>
  );
}

function WireBench({ wiring, view }: { wiring: Wiring; view: string }) {
  const [preferences, setPreferences] = usePreferences();
  const [impossible, setImpossible] = useState("");
  const [files, setFiles] = useState(false);
  const changes = useWiringChanges(wiring);
  const hasFindings = view !== "time";
  const findings = (above: ReactNode) => (
    <WiringFindings
      wiring={wiring}
      open={preferences.findings === "open"}
      onToggle={() => setPreferences({ findings: preferences.findings === "open" ? "closed" : "open" })}
    >
      {above}
    </WiringFindings>
  );

  if (!wiring.board) {
    return (
      <div className="page">
        <h1>{wiring.rig_name}: which board?</h1>
        <BoardChooser rigId={wiring.rig_id} chosen="" />
        {files ? (
          <FilesPanel wiring={wiring} onDone={() => setFiles(false)} />
        ) : (
          <Button size="sm" variant="outline-primary" onClick={() => setFiles(true)}>
            Bring in a file
          </Button>
        )}
      </div>
    );
  }
  return (
    <div className="bench-page wire-page">
      <header className="bench-head">
        <h1>{wiring.rig_name}, wiring</h1>
        <nav className="stage-tabs" aria-label="Views of the wiring">
          {VIEWS.map((one) => (
            <NavLink
              key={one.view}
              to={`/rigs/${wiring.rig_id}/wire/${one.view}`}
              className={view === one.view ? "is-current" : ""}
            >
              {one.name}
            </NavLink>
          ))}
        </nav>
        <div className="page-actions ms-auto">
          <Button
            size="sm"
            disabled={wiring.loose === 0}
            onClick={() => void changes.propose(false).then(setImpossible)}
          >
            Propose pins
          </Button>
          <Button size="sm" variant="outline-primary" aria-expanded={files} onClick={() => setFiles(!files)}>
            Files
          </Button>
          <NavLink className="btn btn-sm btn-outline-primary" to={`/rigs/${wiring.rig_id}/sheet`}>
            Print sheet
          </NavLink>
        </div>
      </header>
      <Over>{files && <FilesPanel wiring={wiring} onDone={() => setFiles(false)} />}</Over>
      {impossible && (
        <div className="trouble wire-trouble" role="alert">
          <h2>Not every lead can have a pin.</h2>
          <p>{impossible}</p>
          <p>Take a device off, let it do without, or choose a board with more of what is short.</p>
          <Button size="sm" variant="outline-primary" onClick={() => setImpossible("")}>
            Close
          </Button>
        </div>
      )}
      <div className={`bench-body ${hasFindings ? `findings-${preferences.findings}` : "findings-none"}`}>
        {view === "loom" ? (
          <LoomView wiring={wiring} beside={findings} />
        ) : (
          <>
            <section className="bench" aria-label={VIEWS.find((one) => one.view === view)?.name}>
              {view === "list" ? (
                <ListView wiring={wiring} />
              ) : view === "time" ? (
                <TimeView rigId={wiring.rig_id} />
              ) : (
                <PlanView wiring={wiring} onImpossible={setImpossible} />
              )}
            </section>
            {hasFindings && findings(null)}
          </>
        )}
      </div>
    </div>
  );
}
