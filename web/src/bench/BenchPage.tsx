import { useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { useParams, useSearchParams } from "react-router";
import type { Recording, Sensor, Stone } from "../api/queries";
import { useMarks, useSensor, useView } from "../api/queries";
import { Over } from "../shell/Over";
import { Skeleton, Trouble } from "../shell/States";
import { useKey } from "../shell/keys";
import { usePreferences } from "../shell/preferences";
import { BenchHead } from "./BenchHead";
import { CellPanel } from "./CellPanel";
import { Findings } from "./Findings";
import { Readout } from "./Readout";
import { TryOut } from "./TryOut";
import { WorkingLine } from "./WorkingLine";
import { CalibrateBench } from "./calibrate/CalibrateBench";
import { type Draft, NOTHING_TRIED } from "./draft";
import { DrivenBench } from "./driven/DrivenBench";
import { ListenBench } from "./listen/ListenBench";
import { TuneBench } from "./tune/TuneBench";
import type { BenchProps } from "./types";
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
      {sensor.data && <SensorBench key={sensorId} sensor={sensor.data} stage={stage} />}
    </>
  );
}

function SensorBench({ sensor, stage }: { sensor: Sensor; stage: Stone["stage"] }) {
  const [search, setSearch] = useSearchParams();
  const wanted = Number(search.get("recording"));
  const recording = sensor.recordings.find((one) => one.id === wanted) ?? sensor.recordings[0] ?? null;
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
  const [draft, setDraft] = useState<Draft>(NOTHING_TRIED);
  const [range, setRange] = useState<[number, number] | null>(null);
  const [atS, setAtS] = useState<number | null>(null);
  const [cell, setCell] = useState<string | null>(null);
  const [readout, setReadout] = useState(false);
  const [asRead, setAsRead] = useState<"fit" | "none" | "saved" | null>(null);
  const [preferences, setPreferences] = usePreferences();
  const marks = useMarks(stage === "calibrated" && recording ? recording.id : null);

  const shown = asRead ?? (marks.data?.fit ? "fit" : sensor.calibration ? "saved" : "none");
  const calibration = stage === "calibrated" ? shown : "saved";
  const request = useMemo(
    () => ({
      points: 1600,
      from_s: range?.[0] ?? null,
      to_s: range?.[1] ?? null,
      at_s: atS,
      air: draft.air,
      parameters: draft.parameters,
      threshold: draft.threshold,
      calibration,
    }),
    [range, atS, draft, calibration],
  );
  const view = useView(sensor.has_chain && recording ? recording.id : null, request);
  const [lastView, setLastView] = useState(view.data);
  if (view.data && view.data !== lastView) setLastView(view.data);

  useKey("Escape", cell ? () => setCell(null) : null);
  useKey("r", lastView && stage !== "wired" ? () => setReadout(true) : null);

  const props: BenchProps = {
    sensor,
    recording,
    onRecording,
    view: lastView,
    viewError: view.isError ? view.error : null,
    retryView: () => void view.refetch(),
    draft,
    setDraft: (change) => setDraft((before) => ({ ...before, ...change })),
    range,
    setRange,
    atS,
    setAtS,
    openCell: setCell,
    marks: marks.data,
    asRead: shown,
    setAsRead,
  };
  const findings = [
    ...sensor.findings,
    ...(stage === "calibrated" ? (marks.data?.fit?.findings ?? []) : []),
    ...(lastView?.findings ?? []),
  ];
  const step = lastView?.working.find((one) => one.stage === cell);
  const trust = sensor.stones.find((stone) => stone.stage === "calibrated") ?? null;
  const hasLine = sensor.has_chain && stage !== "driven";

  // What is being tried out on the other benches stays while the wires are looked at.
  if (stage === "wired") return <WiredBench sensor={sensor} />;
  return (
    <div className="bench-page">
      <BenchHead sensor={sensor} stage={stage}>
        {hasLine && (
          <Button className="ms-auto" variant="outline-primary" disabled={!lastView} onClick={() => setReadout(true)}>
            Read out <kbd>R</kbd>
          </Button>
        )}
      </BenchHead>
      {hasLine && (
        <WorkingLine
          view={lastView}
          trust={calibration === "fit" ? null : trust}
          open={cell}
          onOpen={(name) => setCell(name === cell ? null : name)}
        />
      )}
      {hasLine && cell && step && recording && (
        <Over>
          <CellPanel
            step={step}
            sensor={sensor}
            recording={recording}
            draft={draft}
            setDraft={props.setDraft}
            onClose={() => setCell(null)}
          />
        </Over>
      )}
      {hasLine && recording && <TryOut sensor={sensor} recording={recording} draft={draft} setDraft={props.setDraft} />}
      <div className={`bench-body findings-${preferences.findings}`}>
        <section className="bench" aria-label={`${stage} bench`}>
          <StageBench stage={stage} props={props} />
        </section>
        <Findings
          findings={findings}
          open={preferences.findings === "open"}
          onToggle={() => setPreferences({ findings: preferences.findings === "open" ? "closed" : "open" })}
        />
      </div>
      {lastView && recording && (
        <Readout
          show={readout}
          view={lastView}
          recording={recording}
          sensorName={sensor.name}
          trust={trust}
          onAt={setAtS}
          onHide={() => setReadout(false)}
        />
      )}
    </div>
  );
}

function StageBench({ stage, props }: { stage: Stone["stage"]; props: BenchProps }) {
  const stone = props.sensor.stones.find((one) => one.stage === stage);
  if (!stone || stone.state === "absent")
    return <p className="bench-note">{stone?.reason ?? "There is no such bench."}</p>;
  if (stage === "driven") return <DrivenBench sensor={props.sensor} />;
  if (stage === "calibrated") return <CalibrateBench {...props} />;
  if (stage === "tuned") return <TuneBench {...props} />;
  return <ListenBench {...props} />;
}
