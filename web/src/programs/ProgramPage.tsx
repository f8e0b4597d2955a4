import { NavLink, useParams } from "react-router";
import { useRig } from "../api/queries";
import { Skeleton, Trouble } from "../shell/States";
import { ConstantsView } from "./ConstantsView";
import { LookOverView } from "./LookOverView";
import { ProgramView } from "./ProgramView";
import { useTargets } from "./queries";

const VIEWS = [
  { view: "listen", name: "That listens" },
  { view: "convert", name: "That converts" },
  { view: "rules", name: "That decides" },
  { view: "constants", name: "Constants" },
  { view: "own", name: "Your own" },
] as const;

/** Programs for the rig's board, written and proven here. */
export default function ProgramPage() {
  const params = useParams();
  const rigId = Number(params["rigId"]);
  const rig = useRig(rigId);
  const targets = useTargets(rigId);
  const view = params["view"] ?? "listen";
  return (
    <div className="bench-page program-page">
      <header className="bench-head">
        <h1>{rig.data?.name ?? "…"}, programs</h1>
        <nav className="stage-tabs" aria-label="Kinds of program">
          {VIEWS.map((one) => (
            <NavLink
              key={one.view}
              to={`/rigs/${rigId}/program/${one.view}`}
              className={view === one.view ? "is-current" : ""}
            >
              {one.name}
            </NavLink>
          ))}
        </nav>
      </header>
      {targets.isPending && <Skeleton lines={9} />}
      {targets.isError && <Trouble error={targets.error} retry={() => void targets.refetch()} />}
      {targets.data &&
        (view === "constants" ? (
          <ConstantsView rigId={rigId} />
        ) : view === "own" ? (
          <LookOverView rigId={rigId} />
        ) : (
          <ProgramView
            key={view}
            rigId={rigId}
            programs={targets.data}
            kind={view === "convert" || view === "rules" ? view : "listen"}
          />
        ))}
    </div>
  );
}
