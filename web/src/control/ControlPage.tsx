import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useParams } from "react-router";
import { body, client } from "../api/client";
import { useRig } from "../api/queries";
import { type Kept, goBack, useRulesBench } from "../rules/queries";
import { Skeleton, Trouble } from "../shell/States";
import { useDeed } from "../shell/useDeed";
import { InputField } from "../units/InputField";
import { day } from "../units/dates";
import { AsHeard } from "./AsHeard";
import { ByHand } from "./ByHand";
import { KeptControllers } from "./KeptControllers";
import { KnownWays } from "./KnownWays";
import { Mistakes } from "./Mistakes";
import { OwnRun } from "./OwnRun";
import { OwnStep } from "./OwnStep";
import { RunPlots } from "./RunPlots";
import { SettingsTable } from "./SettingsTable";
import { type ControlBench, type Values, useControlBench, useRuns } from "./queries";
import { type Tried, asKept, begun, documentOf, hearing, inUnitOf } from "./tried";

const MOST = 4;
type Tool = "hand" | "known" | "step" | "run" | "mistakes";
const TOOLS: [Tool, string][] = [
  ["hand", "By hand"],
  ["known", "Known ways"],
  ["step", "Your own step"],
  ["run", "A run of the rig"],
  ["mistakes", "Mistakes"],
];

/** Controllers of a rig: tried on a plant, tuned, compared, kept. */
export default function ControlPage() {
  const rigId = Number(useParams()["rigId"]);
  const bench = useControlBench(rigId);
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

function Bench({ rigId, rigName, bench }: { rigId: number; rigName: string; bench: ControlBench }) {
  const kept = bench.kept.find((one) => one.is_in_use);
  const [state, setState] = useState<Tried>(() => {
    if (kept) return asKept(documentOf(kept), bench);
    const first = bench.plants[0];
    return first ? begun(first, bench) : { plant: "", plantInputs: {}, rigInputs: {}, settings: [{}] };
  });
  const [tool, setTool] = useState<Tool>("hand");
  const [held, setHeld] = useState(0);
  const [isRig, setRig] = useState(false);
  const [note, setNote] = useState("");
  const [hears, setHears] = useState<number | null>(null);
  const rules = useRulesBench(rigId);
  const deed = useDeed();
  const kind = bench.plants.find((one) => one.name === state.plant) ?? bench.plants[0];
  const plant = { plant: state.plant, plant_inputs: state.plantInputs, rig_inputs: state.rigInputs };
  const runs = useRuns(plant, state.settings, 1);
  if (!kind) return null;
  const heard = hearing(rules.data?.offered ?? [], kind.measured.unit);
  const sensors = [...new Map(heard.map((one) => [one.sensor_id, one.sensor])).entries()];
  const sensorId = hears ?? (kind.measured.unit ? (sensors[0]?.[0] ?? null) : null);
  const place = Math.min(held, state.settings.length - 1);
  const inHand = state.settings[place] ?? {};
  const slot = bench.kept.find((one) => one.is_in_use && documentOf(one).plant === state.plant);
  const change = (next: Partial<Tried>) => setState({ ...state, ...next });
  const setSettings = (n: number, next: Values) =>
    change({ settings: state.settings.map((one, m) => (m === n ? next : one)) });
  const useGains = (gains: Values) => setSettings(place, { ...inHand, ...gains });

  function add(settings: Values) {
    if (state.settings.length >= MOST) return;
    setHeld(state.settings.length);
    change({ settings: [...state.settings, { ...settings }] });
  }
  function goBackTo(one: Kept) {
    const before = bench.kept.find((other) => other.is_in_use && other.slot === one.slot);
    void deed(
      () => goBack(rigId, one.id),
      `${rigName} goes by the controller of ${day(one.made_at)} again.`,
      before && (() => goBack(rigId, before.id)),
    ).then((isDone) => isDone && setState(asKept(documentOf(one), bench)));
  }
  function keep() {
    const path = { rig_id: rigId };
    void deed(
      () =>
        body(
          client.POST("/api/rigs/{rig_id}/tunings", {
            params: { path },
            body: {
              ...plant,
              name: kind?.label ?? "loop",
              settings: inHand,
              sensor_ids: sensorId ? [sensorId] : [],
              note,
            },
          }),
        ),
      `${rigName} keeps this controller for: ${kind?.label.toLowerCase()}.`,
      slot && (() => goBack(rigId, slot.id)),
    ).then((isDone) => isDone && setNote(""));
  }

  return (
    <div className="page control-page">
      <header className="rules-head">
        <div>
          <h1>{rigName}: controllers</h1>
          <p className="quiet">
            {slot ? `${slot.name}, kept ${day(slot.made_at)}, in use` : "None is kept for this yet."}
          </p>
        </div>
        <div className="rules-deeds">
          <KeptControllers
            kept={bench.kept}
            canStandBeside={(one) => documentOf(one).plant === state.plant && state.settings.length < MOST}
            onOpen={(one) => setState(asKept(documentOf(one), bench))}
            onBeside={(one) => add(asKept(documentOf(one), bench).settings[0] ?? {})}
            onGoBack={goBackTo}
          />
          <input
            className="form-control form-control-sm"
            aria-label="Why this controller"
            placeholder="why, in a few words"
            maxLength={200}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <Button size="sm" onClick={keep} disabled={runs.isError}>
            Keep {"ABCD"[place]}
          </Button>
        </div>
      </header>
      {slot && slot.cracks.length > 0 && (
        <p className="bench-note warning" role="alert">
          <b>Cracked.</b> {slot.cracks.join(" ")}
        </p>
      )}
      <div className="control-body">
        <section className="control-side" aria-label="What is steered">
          <label className="control-plant">
            Steered
            <select
              className="form-select form-select-sm"
              value={state.plant}
              onChange={(event) => {
                const next = bench.plants.find((one) => one.name === event.target.value);
                if (next) setState(begun(next, bench));
                setHeld(0);
              }}
            >
              {bench.plants.map((one) => (
                <option key={one.name} value={one.name}>
                  {one.label}
                </option>
              ))}
            </select>
          </label>
          <label className="control-plant">
            Heard by
            <select
              className="form-select form-select-sm"
              value={sensorId ?? 0}
              onChange={(event) => setHears(Number(event.target.value))}
            >
              <option value={0}>nothing of this rig</option>
              {sensors.map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          <p className="quiet">{kind.what}</p>
          <div className="control-fields">
            {kind.inputs
              .filter((one) => !one.is_rare)
              .map((one) => (
                <InputField
                  key={one.name}
                  input={one}
                  value={state.plantInputs[one.name] ?? null}
                  onChange={(value) => change({ plantInputs: { ...state.plantInputs, [one.name]: value } })}
                />
              ))}
          </div>
          <button type="button" className="fold" aria-expanded={isRig} onClick={() => setRig(!isRig)}>
            The loop it stands in
          </button>
          {isRig && (
            <AsHeard
              rigId={rigId}
              bench={bench}
              unit={kind.measured.unit}
              onTake={(inputs) => change({ rigInputs: { ...state.rigInputs, ...inputs } })}
            />
          )}
          {isRig && (
            <div className="control-fields">
              {bench.rig.map((one) => (
                <InputField
                  key={one.name}
                  input={inUnitOf(one, kind)}
                  value={state.rigInputs[one.name] ?? null}
                  onChange={(value) => change({ rigInputs: { ...state.rigInputs, [one.name]: value } })}
                />
              ))}
            </div>
          )}
          <p className="caution">{kind.caution}</p>
        </section>
        <section className="control-work" aria-label="What it does">
          {runs.isError && <Trouble error={runs.error} retry={() => void runs.refetch()} />}
          {!runs.data && !runs.isError && <Skeleton lines={8} />}
          {runs.data && <RunPlots runs={runs.data} />}
          {runs.data && (
            <SettingsTable
              settings={state.settings}
              runs={runs.data}
              inputs={bench.controller}
              held={place}
              onHold={setHeld}
              onChange={setSettings}
              onAdd={state.settings.length < MOST ? () => add(inHand) : null}
              onRemove={(n) => {
                setHeld(0);
                change({ settings: state.settings.filter((_, m) => m !== n) });
              }}
            />
          )}
          <nav className="rules-views" aria-label="Ways to tune">
            {TOOLS.map(([name, label]) => (
              <button
                key={name}
                type="button"
                className={tool === name ? "is-current" : ""}
                aria-pressed={tool === name}
                onClick={() => setTool(name)}
              >
                {label}
              </button>
            ))}
          </nav>
          {tool === "hand" && (
            <ByHand key={state.plant} plant={plant} settings={inHand} stages={bench.stages} onTry={useGains} />
          )}
          {tool === "known" && <KnownWays bench={bench} plant={plant} onTake={useGains} />}
          {tool === "step" && (
            <OwnStep
              rigId={rigId}
              bench={bench}
              onTake={(inputs) => {
                const fitted = bench.plants.find((one) => one.name === "fitted");
                if (fitted) setState({ ...begun(fitted, bench), plantInputs: inputs });
                setHeld(0);
              }}
            />
          )}
          {tool === "run" && <OwnRun rigId={rigId} bench={bench} onTake={useGains} />}
          {tool === "mistakes" && (
            <Mistakes
              bench={bench}
              onShow={(next) => {
                setState(next);
                setHeld(0);
              }}
            />
          )}
        </section>
      </div>
    </div>
  );
}
