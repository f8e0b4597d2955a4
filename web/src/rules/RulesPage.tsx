import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useParams } from "react-router";
import { body, client, problemOf } from "../api/client";
import { useRig } from "../api/queries";
import { Findings } from "../bench/Findings";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { download } from "../shell/download";
import { useDeed } from "../shell/useDeed";
import { day } from "../units/dates";
import { HeldPanel } from "./HeldPanel";
import { InputsPanel } from "./InputsPanel";
import { LiveView } from "./LiveView";
import { type Held, MachinePicture } from "./MachinePicture";
import { ReplayView } from "./ReplayView";
import { RulesTable } from "./RulesTable";
import { type Kept, type RulesBench, goBack, sent, useChecked, useRulesBench } from "./queries";
import { type Rules, freeName } from "./rules";

type View = "picture" | "table" | "inputs" | "replay" | "live";
const VIEWS: [View, string][] = [
  ["picture", "Picture"],
  ["table", "Table"],
  ["inputs", "Looks at"],
  ["replay", "Replay"],
  ["live", "On the line"],
];

/** What a rig does at what its sensors say: drawn, tabled, checked, replayed, kept. */
export default function RulesPage() {
  const rigId = Number(useParams()["rigId"]);
  const bench = useRulesBench(rigId);
  const rig = useRig(rigId);
  if (bench.isError) return <Trouble error={bench.error} retry={() => void bench.refetch()} />;
  if (!bench.data || !rig.data) {
    return (
      <div className="page">
        <Skeleton lines={9} />
      </div>
    );
  }
  return <Bench key={rigId} rigId={rigId} rigName={rig.data.name} bench={bench.data} />;
}

const documentOf = (kept: Kept) => kept.document as unknown as Rules;

interface BenchProps {
  rigId: number;
  rigName: string;
  bench: RulesBench;
}

function Bench({ rigId, rigName, bench }: BenchProps) {
  const inUse = bench.kept.find((one) => one.is_in_use);
  const [rules, setRules] = useState<Rules | null>(inUse ? documentOf(inUse) : null);
  const [view, setView] = useState<View>("picture");
  if (rules === null) return <Beginning rigName={rigName} bench={bench} onBegin={setRules} />;
  return (
    <Machine
      rigId={rigId}
      rigName={rigName}
      bench={bench}
      rules={rules}
      setRules={setRules}
      view={view}
      setView={setView}
    />
  );
}

/** Nothing was kept yet: what to begin with. */
function Beginning({
  rigName,
  bench,
  onBegin,
}: {
  rigName: string;
  bench: RulesBench;
  onBegin: (rules: Rules) => void;
}) {
  return (
    <div className="page">
      <h1>{rigName}: what it does</h1>
      {bench.offered.length === 0 ? (
        <Empty title="Nothing on this rig tells anything yet.">
          <p>Add its sensors and wire them first; then say here what the rig does at what they say.</p>
        </Empty>
      ) : (
        <>
          <p>Begin with one of these and make it your own. Nothing is kept until you keep it.</p>
          <StartingPoints bench={bench} onBegin={onBegin} />
        </>
      )}
    </div>
  );
}

function StartingPoints({ bench, onBegin }: { bench: RulesBench; onBegin: (rules: Rules) => void }) {
  return (
    <ul className="starting-points">
      {bench.starting_points.map((one) => (
        <li key={one.name}>
          <button type="button" onClick={() => onBegin(one.rules as unknown as Rules)}>
            <b>{one.label}</b>
            <span>{one.what}</span>
            {one.missing.length > 0 && <span className="quiet">This rig tells no {one.missing.join(", ")}.</span>}
          </button>
        </li>
      ))}
    </ul>
  );
}

interface MachineProps extends BenchProps {
  rules: Rules;
  setRules: (rules: Rules) => void;
  view: View;
  setView: (view: View) => void;
}

function Machine({ rigId, rigName, bench, rules, setRules, view, setView }: MachineProps) {
  const [held, setHeld] = useState<Held>(null);
  const [past, setPast] = useState<Rules[]>([]);
  const [now, setNow] = useState<string | null>(null);
  const [note, setNote] = useState("");
  const [isBeginning, setBeginning] = useState(false);
  const [findingsOpen, setFindingsOpen] = useState(view === "picture"); // tables want the room
  const checked = useChecked(rigId, rules);
  const deed = useDeed();
  const inUse = bench.kept.find((one) => one.is_in_use);
  const isAsKept = inUse !== undefined && JSON.stringify(documentOf(inUse)) === JSON.stringify(rules);
  const problem = checked.isError ? problemOf(checked.error) : null;

  function change(next: Rules) {
    setPast([...past.slice(-49), rules]);
    setRules(next);
  }
  function back() {
    const before = past.at(-1);
    if (!before) return;
    setPast(past.slice(0, -1));
    setRules(before);
  }
  function keep() {
    const path = { rig_id: rigId };
    void deed(
      () => body(client.POST("/api/rigs/{rig_id}/rules", { params: { path }, body: { rules: sent(rules), note } })),
      `${rigName} goes by these rules now.`,
      inUse && (() => goBack(rigId, inUse.id)),
    ).then((isDone) => isDone && setNote(""));
  }
  function goBackTo(kept: Kept) {
    void deed(
      () => goBack(rigId, kept.id),
      `${rigName} goes by the rules of ${day(kept.made_at)} again.`,
      inUse && (() => goBack(rigId, inUse.id)),
    ).then((isDone) => isDone && setRules(documentOf(kept)));
  }
  function lead(leaves: string, to: string) {
    const first = rules.inputs.find((one) => !one.together);
    const offered = bench.offered.find(
      (one) => String(one.sensor_id) === first?.sensor && one.output.name === first.output,
    );
    const state = offered?.output.quantity.states[0]?.name;
    const when = first ? (state ? `${first.name} is ${state}` : `${first.name} < 0.5`) : "";
    const transitions = [...rules.transitions, { leaves, to, when, for_s: 0 }];
    change({ ...rules, transitions });
    setHeld({ kind: "transition", place: transitions.length - 1 });
  }
  function addState() {
    const name = freeName(
      "state",
      rules.states.map((one) => one.name),
    );
    change({ ...rules, states: [...rules.states, { name, action: "" }] });
    setHeld({ kind: "state", place: rules.states.length });
  }

  return (
    <div className="page rules-page">
      <header className="rules-head">
        <div>
          <h1>{rigName}: what it does</h1>
          <p className="quiet">
            {rules.name}
            {inUse && (isAsKept ? `, kept ${day(inUse.made_at)}, in use` : ", changed since it was kept")}
            {!inUse && ", not kept yet"}
          </p>
        </div>
        <div className="rules-deeds">
          <Button size="sm" variant="outline-primary" disabled={past.length === 0} onClick={back}>
            Step back
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            aria-expanded={isBeginning}
            onClick={() => setBeginning(!isBeginning)}
          >
            Begin anew
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => takeAway(rules)}>
            Take away
          </Button>
          <input
            className="form-control form-control-sm"
            aria-label="Why these rules"
            placeholder="why, in a few words"
            maxLength={200}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <Button size="sm" disabled={problem !== null || isAsKept} onClick={keep}>
            Keep the rules
          </Button>
        </div>
      </header>
      {isBeginning && (
        <StartingPoints
          bench={bench}
          onBegin={(next) => {
            change(next);
            setHeld(null);
            setBeginning(false);
          }}
        />
      )}
      {inUse && inUse.cracks.length > 0 && (
        <p className="bench-note warning" role="alert">
          <b>Cracked.</b> {inUse.cracks.join(" ")} Replay them, and keep them anew if they still do.
        </p>
      )}
      <nav className="rules-views" aria-label="Views">
        {VIEWS.map(([name, label]) => (
          <button
            key={name}
            type="button"
            className={view === name ? "is-current" : ""}
            aria-pressed={view === name}
            onClick={() => {
              setView(name);
              setFindingsOpen(name === "picture" || name === "inputs");
            }}
          >
            {label}
          </button>
        ))}
        {bench.kept.length > 1 && (
          <select
            className="form-select form-select-sm ms-auto"
            aria-label="Kept before"
            value=""
            onChange={(event) => {
              const kept = bench.kept.find((one) => one.id === Number(event.target.value));
              if (kept) goBackTo(kept);
            }}
          >
            <option value="">go back to…</option>
            {bench.kept
              .filter((one) => !one.is_in_use)
              .map((one) => (
                <option key={one.id} value={one.id}>
                  {day(one.made_at)}
                  {one.note ? `: ${one.note}` : ""}
                </option>
              ))}
          </select>
        )}
      </nav>
      <div className={`rules-body ${findingsOpen ? "" : "findings-closed"}`}>
        <div className="rules-work">
          {problem && (
            <p className="bench-note warning" role="alert">
              {problem.detail} {problem.kept}
            </p>
          )}
          {view === "picture" && (
            <>
              <MachinePicture
                rules={rules}
                checked={checked.data}
                held={held}
                onHold={setHeld}
                onLead={lead}
                now={now}
              />
              <div className="picture-foot">
                <Button size="sm" variant="outline-primary" onClick={addState}>
                  Add a state
                </Button>
                <span className="quiet">▸ moves · ▪ stands · ◷ by time · the lower number wins</span>
              </div>
              <HeldPanel
                key={held ? `${held.kind} ${held.place}` : "none"}
                rules={rules}
                held={held}
                checked={checked.data}
                onChange={change}
                onHold={setHeld}
              />
            </>
          )}
          {view === "table" && (
            <>
              <RulesTable rules={rules} checked={checked.data} onChange={change} />
              <div className="picture-foot">
                <Button size="sm" variant="outline-primary" onClick={addState}>
                  Add a state
                </Button>
                <Button
                  size="sm"
                  variant="outline-primary"
                  disabled={rules.states.length < 2}
                  onClick={() => lead(rules.states[0]?.name ?? "", rules.states[1]?.name ?? "")}
                >
                  Add a way
                </Button>
              </div>
            </>
          )}
          {view === "inputs" && <InputsPanel rules={rules} bench={bench} onChange={change} />}
          {view === "replay" && <ReplayView rigId={rigId} rules={rules} bench={bench} onNow={setNow} />}
          {view === "live" && (
            <>
              <LiveView rigId={rigId} rules={rules} onNow={setNow} />
              {now !== null && (
                <MachinePicture
                  rules={rules}
                  checked={checked.data}
                  held={null}
                  onHold={(one) => {
                    setHeld(one);
                    setView("picture");
                  }}
                  onLead={(leaves, to) => {
                    lead(leaves, to);
                    setView("picture");
                  }}
                  now={now}
                />
              )}
            </>
          )}
          <p className="caution">{bench.caution}</p>
        </div>
        <Findings
          findings={checked.data?.findings ?? null}
          open={findingsOpen}
          onToggle={() => setFindingsOpen(!findingsOpen)}
        />
      </div>
    </div>
  );
}

function takeAway(rules: Rules) {
  const text = JSON.stringify(rules, null, 2);
  download(new Blob([text], { type: "application/json" }), "rules.json");
}
