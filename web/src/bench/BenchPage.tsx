import { body, client } from "../api/client";
import { useEffect, useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { useParams, useSearchParams } from "react-router";
import type { OutputSeen, Recording, Sensor, Stone } from "../api/queries";
import { useFit, useLook, useMarks, useSensor } from "../api/queries";
import { Over } from "../shell/Over";
import { Skeleton, Trouble } from "../shell/States";
import { useKey } from "../shell/keys";
import { usePreferences } from "../shell/preferences";
import { BenchHead } from "./BenchHead";
import { CellPanel } from "./CellPanel";
import { Findings } from "./Findings";
import { OutputTabs } from "./OutputTabs";
import { Readout } from "./Readout";
import { Leaving } from "./Leaving";
import { TryOut } from "./TryOut";
import { AirNote } from "./AirNote";
import { WorkingLine } from "./WorkingLine";
import { Picture } from "./pictures/Picture";
import { CalibrateBench } from "./calibrate/CalibrateBench";
import { type Draft, NOTHING_TRIED, asTrial } from "./draft";
import { DrivenBench } from "./driven/DrivenBench";
import { ListenBench } from "./listen/ListenBench";
import { TuneBench } from "./tune/TuneBench";
import type { BenchProps } from "./types";
import { useTrial } from "./useTrial";
import { WiredBench } from "./wired/WiredBench";

/** The bench of one sensor and one stage of the work. */
export default function BenchPage() {
  const params = useParams();
  const sensorId = Number(params["sensorId"]);
  const stage = (params["stage"] ?? "heard") as Stone["stage"];
  const sensor = useSensor(sensorId);
  return (
    <>
      {sensor.isPending && (
        <div className="page">
          <Skeleton lines={9} />
        </div>
      )}
      {sensor.isError && (
        <div className="page">
          <Trouble error={sensor.error} retry={() => void sensor.refetch()} />
        </div>
      )}
      {sensor.data && <SensorBench key={sensorId} sensor={sensor.data} stage={stage} isReadAgain={sensor.isFetching} />}
    </>
  );
}

interface SensorBenchProps {
  sensor: Sensor;
  stage: Stone["stage"];
  isReadAgain: boolean;
}

function SensorBench({ sensor, stage, isReadAgain }: SensorBenchProps) {
  const [search, setSearch] = useSearchParams();
  const wanted = Number(search.get("recording"));
  const named = sensor.recordings.find((one) => one.id === wanted);
  const isMissing = wanted > 0 && !named;
  // What has only just come is there once the sensor has been read again; what is gone is not named any more.
  const isGone = isMissing && !isReadAgain;
  useEffect(() => {
    if (!isGone) return;
    setSearch(
      (before) => {
        before.delete("recording");
        return before;
      },
      { replace: true },
    );
  }, [isGone, setSearch]);
  if (isMissing && isReadAgain) {
    return (
      <div className="page">
        <Skeleton lines={9} />
      </div>
    );
  }
  const recording = named ?? sensor.recordings[0] ?? null;
  return (
    <RecordingBench
      key={recording?.id ?? 0}
      sensor={sensor}
      stage={stage}
      recording={recording}
      onRecording={(id) => setSearch({ recording: String(id) }, { replace: true })}
    />
  );
}

interface RecordingBenchProps {
  sensor: Sensor;
  stage: Stone["stage"];
  recording: Recording | null;
  onRecording: (id: number) => void;
}

function RecordingBench({ sensor, stage, recording, onRecording }: RecordingBenchProps) {
  const { bench } = sensor;
  const [draft, setDraft] = useState<Draft>(NOTHING_TRIED);
  const [range, setRange] = useState<[number, number] | null>(null);
  const [atS, setAtS] = useState<number | null>(null);
  const [cell, setCell] = useState<string | null>(null);
  const [readout, setReadout] = useState(false);
  const [output, setOutput] = useState("");
  const [kind, setKind] = useState("");
  const [asRead, setAsRead] = useState<"fit" | "none" | "saved" | null>(null);
  const [preferences, setPreferences] = usePreferences();
  const calibrating = stage === "calibrated" && bench ? recording : null;
  const calibration = bench?.calibrations.find((one) => one.name === kind) ?? bench?.calibrations[0];
  const marks = useMarks(calibrating?.id ?? null);
  const fit = useFit(calibrating?.id ?? null, calibration?.name ?? "", asTrial(draft));
  const fitted = fit.data?.problem === "" ? fit.data : undefined;

  const inUse = sensor.calibrations.some((one) => one.is_in_use && one.kind === calibration?.name);
  const shown = asRead ?? (fitted ? "fit" : inUse ? "saved" : "none");
  const used = stage === "calibrated" && calibration ? shown : "saved";
  const request = useMemo(
    () => ({
      outputs: [],
      points: 1600,
      from_s: range?.[0] ?? null,
      to_s: range?.[1] ?? null,
      at_s: atS,
      draft: asTrial(draft, used === "saved" ? {} : { [calibration?.name ?? ""]: used }),
    }),
    [range, atS, draft, used, calibration?.name],
  );
  const look = useLook(bench && recording ? recording.id : null, request);
  const [lastLook, setLastLook] = useState(look.data);
  if (look.data && look.data !== lastLook) setLastLook(look.data);
  const amounts = lastLook?.outputs.filter((one) => one.quantity.states.length === 0);
  const seen = amounts?.find((one) => one.name === output) ?? amounts?.[0];
  const decisions = lastLook?.outputs.filter((one) => one.quantity.states.length > 0 && one.working.length > 0) ?? [];
  const decision = decisions.find((one) => isOn(one, seen));

  const change = (next: Partial<Draft>) => setDraft((before) => ({ ...before, ...next }));
  const trial = useTrial(sensor, recording, draft, change);

  useKey("Escape", cell ? () => setCell(null) : null);
  useKey("r", lastLook && stage !== "wired" ? () => setReadout(true) : null);

  // What is being tried out on the other benches stays while the wires are looked at.
  if (stage === "wired") {
    return (
      <>
        <WiredBench sensor={sensor} />
        {recording && (
          <AirNote
            air={lastLook?.air ?? null}
            use={(celsius) =>
              body(
                client.PATCH("/api/recordings/{recording_id}", {
                  params: { path: { recording_id: recording.id } },
                  body: { air: { ...recording.air, temperature_c: celsius } },
                }),
              )
            }
          />
        )}
        <Leaving sensor={sensor} recording={recording} trial={trial} />
      </>
    );
  }
  const findings = [
    ...sensor.findings,
    ...(stage === "calibrated" ? (fit.data?.findings ?? []) : []),
    ...(lastLook?.findings ?? []),
  ];
  const steps = [...(seen?.working ?? []), ...(decision?.working.slice(-1) ?? [])];
  const step = steps.find((one) => one.stage === cell);
  const trust = sensor.stones.find((stone) => stone.stage === "calibrated") ?? null;
  const hasLine = bench !== null && stage !== "driven";
  const picture = bench && (
    <Picture kind={bench.kind} steps={steps} parameters={draft.parameters ?? sensor.parameters} />
  );
  const props: BenchProps | null = bench && {
    sensor,
    bench,
    recording,
    onRecording,
    look: lastLook,
    seen,
    decisions,
    lookError: look.isError ? look.error : null,
    retryLook: () => void look.refetch(),
    draft,
    setDraft: change,
    range,
    setRange,
    atS,
    setAtS,
    openCell: setCell,
    calibration,
    setCalibration: setKind,
    marks: marks.data,
    fitted: fit.data,
    fitting: fit.isFetching,
    asRead: shown,
    setAsRead,
  };

  return (
    <div className="bench-page">
      <BenchHead sensor={sensor} stage={stage}>
        {hasLine && (
          <Button className="ms-auto" variant="outline-primary" disabled={!seen} onClick={() => setReadout(true)}>
            Read out <kbd>R</kbd>
          </Button>
        )}
      </BenchHead>
      {hasLine && amounts && amounts.length > 1 && (
        <OutputTabs outputs={amounts} chosen={seen?.name ?? ""} onChoose={setOutput} />
      )}
      {hasLine && (
        <WorkingLine
          steps={lastLook ? steps : undefined}
          trust={used === "fit" ? null : trust}
          air={lastLook?.air ?? null}
          open={cell}
          onOpen={(name) => setCell(name === cell ? null : name)}
        />
      )}
      {hasLine && picture}
      {hasLine && cell && step && recording && (
        <Over>
          <CellPanel
            step={step}
            sensor={sensor}
            bench={bench}
            recording={recording}
            draft={draft}
            setDraft={change}
            onClose={() => setCell(null)}
          />
        </Over>
      )}
      <Leaving sensor={sensor} recording={recording} trial={trial} />
      {hasLine && recording && (
        <TryOut sensor={sensor} trial={trial} draft={draft} setDraft={change} hidesRule={stage === "tuned"} />
      )}
      <div className={`bench-body findings-${preferences.findings}`}>
        <section className="bench" aria-label={`${stage} bench`}>
          <StageBench stage={stage} sensor={sensor} props={props} />
        </section>
        <Findings
          findings={findings}
          open={preferences.findings === "open"}
          onToggle={() => setPreferences({ findings: preferences.findings === "open" ? "closed" : "open" })}
        />
      </div>
      {lastLook && seen && recording && (
        <Readout
          show={readout}
          look={lastLook}
          seen={seen}
          decision={decision}
          recording={recording}
          sensorName={sensor.name}
          trust={trust}
          picture={picture}
          onAt={setAtS}
          onHide={() => setReadout(false)}
        />
      )}
    </div>
  );
}

/** Whether something is decided on an output, or enters it, at the time of the reading in hand. */
function isOn(decision: OutputSeen, seen: OutputSeen | undefined): boolean {
  const last = seen?.working.at(-1);
  if (!last || decision.at_s !== seen?.at_s || decision.quantity.lanes.length > 1) return false;
  const [before, decided] = decision.working.slice(-2);
  return before?.stage === last.stage || last.beside.some((line) => line.at(-1)?.stage === decided?.stage);
}

interface StageBenchProps {
  stage: Stone["stage"];
  sensor: Sensor;
  props: BenchProps | null;
}

function StageBench({ stage, sensor, props }: StageBenchProps) {
  const stone = sensor.stones.find((one) => one.stage === stage);
  if (!stone || stone.state === "absent")
    return <p className="bench-note">{stone?.reason ?? "There is no such bench."}</p>;
  if (stage === "driven") return <DrivenBench sensor={sensor} />;
  if (!props) return null;
  if (stage === "calibrated") return <CalibrateBench {...props} />;
  if (stage === "tuned") return <TuneBench {...props} />;
  return <ListenBench {...props} />;
}
