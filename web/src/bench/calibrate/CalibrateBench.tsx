import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import type { Calibration, CalibrationKind, Mark, Sensor } from "../../api/queries";
import { useDeed } from "../../shell/useDeed";
import { Empty, Skeleton } from "../../shell/States";
import { useKey } from "../../shell/keys";
import { HeapColumns, type LaneHeaps } from "../../heaps/HeapColumns";
import { markSays } from "../../takes/markSays";
import { grouped } from "../../units/units";
import { BenchPlot } from "../BenchPlot";
import { HeldAgainst } from "../HeldAgainst";
import { RecordingHead } from "../RecordingHead";
import { asTrial } from "../draft";
import type { BenchProps } from "../types";
import { AllanPlot } from "./AllanPlot";
import { FitLine } from "./FitLine";
import { HandsFree } from "./HandsFree";
import { MarkForm, type MarkDraft } from "./MarkForm";
import { MarkTable } from "./MarkTable";
import { Schedule } from "./Schedule";

/** Mark what is known to be true, see the fit, keep it. */
export function CalibrateBench(props: BenchProps) {
  const { sensor, bench, recording, look, calibration: kind, fitted, asRead, setAsRead } = props;
  const [draft, setDraft] = useState<MarkDraft | null>(null);
  const [saving, setSaving] = useState(false);
  const deed = useDeed();
  const marks = props.marks?.filter((mark) => mark.calibration === kind?.name);
  const still = fitted?.next_still ?? null;
  const hasFit = fitted?.problem === "";
  const isTrial = props.draft.air !== null || props.draft.parameters !== null;
  const inUse = sensor.calibrations.find((one) => one.is_in_use && one.kind === kind?.name);
  const done = new Set(marks?.map((mark) => mark.pose));
  const pose = kind?.poses.find((one) => !done.has(one.name))?.name ?? kind?.poses[0]?.name ?? "";
  const [opening, setOpening] = useState(false);
  const [handsFree, setHandsFree] = useState(false);
  const start = () => setOpening(true);
  // A stretch is proposed by the fit: who is faster than it waits those few milliseconds.
  if (opening && !props.fitting) {
    setOpening(false);
    setDraft({
      id: null,
      name: "",
      from_s: still?.from_s ?? null,
      to_s: still?.to_s ?? null,
      value: null,
      u: kind?.usual_u ?? 0.001,
      pose: kind?.takes_any_pose ? (kind.poses[0]?.name ?? "") : pose,
      lane: null,
    });
  }
  useKey("m", recording && kind && !draft ? start : null);
  useKey("g", kind?.is_guided && !draft ? () => setHandsFree(true) : null);
  useKey("Escape", draft ? () => setDraft(null) : null);
  useKey("k", hasFit && !saving && !draft ? () => void save() : null);

  const guided = handsFree && kind && (
    <HandsFree
      sensor={sensor}
      kind={kind}
      onDone={(id) => {
        setHandsFree(false);
        props.onRecording(id);
      }}
      onHide={() => setHandsFree(false)}
    />
  );
  if (!recording) {
    return (
      <Empty title="There is nothing to mark yet.">
        <p>
          A calibration compares {bench.sample} with something known.{" "}
          <Link to={`/sensors/${sensor.id}/heard`}>Bring in a recording first</Link> in which something known was held
          {kind?.is_guided && ", or hold it now"}.
        </p>
        {kind?.is_guided && (
          <Button onClick={() => setHandsFree(true)}>
            Hold it now, hands free <kbd>G</kbd>
          </Button>
        )}
        {guided}
      </Empty>
    );
  }

  if (!kind) return <p className="bench-note">There is nothing to calibrate.</p>;

  function remove(mark: Mark) {
    const params = { path: { mark_id: mark.id } };
    return deed(
      () => body(client.DELETE("/api/marks/{mark_id}", { params })),
      `The mark ${markSays(mark) && `“${markSays(mark)}” `}is gone.`,
      () => body(client.POST("/api/marks/{mark_id}/restore", { params })),
    );
  }

  async function save() {
    if (!recording || !kind) return;
    setSaving(true);
    const before = { calibration_id: inUse?.id ?? null, undone_by: inUse?.undone_by ?? "" };
    await deed(
      () =>
        body(
          client.POST("/api/recordings/{recording_id}/calibrations", {
            params: { path: { recording_id: recording.id } },
            body: { kind: kind.name, draft: asTrial(props.draft) },
          }),
        ),
      isTrial
        ? "The calibration is kept and in use. It rests on what is tried out here."
        : "The calibration is kept and in use.",
      () =>
        body(
          client.PUT("/api/sensors/{sensor_id}/calibrations/{kind}", {
            params: { path: { sensor_id: sensor.id, kind: kind.name } },
            body: before,
          }),
        ),
    );
    setSaving(false);
  }

  const bands = (marks ?? [])
    .filter((mark) => mark.id !== draft?.id)
    .map((mark) => ({ id: mark.id, name: markSays(mark), from_s: mark.start_s, to_s: mark.end_s }));
  if (draft && draft.from_s !== null && draft.to_s !== null) {
    bands.push({ id: 0, name: draft.name || "this mark", from_s: draft.from_s, to_s: draft.to_s });
  }

  return (
    <>
      <RecordingHead
        {...props}
        below={
          <Form.Select
            size="sm"
            className="plot-shows"
            aria-label="Plot shows"
            value={asRead}
            onChange={(event) => setAsRead(event.target.value as typeof asRead)}
          >
            {hasFit && <option value="fit">with these marks</option>}
            <option value="none">as read</option>
            {inUse && <option value="saved">with the one in use</option>}
          </Form.Select>
        }
      >
        <span className="head-actions">
          {kind.is_guided && (
            <Button size="sm" variant="outline-primary" disabled={draft !== null} onClick={() => setHandsFree(true)}>
              Hold it now <kbd>G</kbd>
            </Button>
          )}
          <Button size="sm" disabled={draft !== null} onClick={start}>
            {kind.deed} <kbd>M</kbd>
          </Button>
        </span>
      </RecordingHead>
      {sensor.schedule.length > 1 && <Schedule sensor={sensor} chosen={kind.name} onChoose={props.setCalibration} />}
      {guided}
      {draft && (
        <MarkForm
          key={draft.id ?? "new"}
          recording={recording}
          kind={kind}
          lanes={look?.outputs.find((one) => one.quantity.lanes.length > 1)?.quantity.lanes ?? []}
          draft={draft}
          before={marks?.find((mark) => mark.id === draft.id)}
          onDraft={setDraft}
          onDone={() => setDraft(null)}
          isFound={draft.id === null && still !== null && draft.from_s === still.from_s && draft.to_s === still.to_s}
        />
      )}
      <BenchPlot
        {...props}
        bands={bands}
        selecting={draft !== null}
        onSelect={(from, to) => setDraft((before) => before && { ...before, from_s: from, to_s: to })}
        height={260}
      />
      {!marks && <Skeleton lines={3} />}
      {kind.poses.length > 0 && !fitted?.heaps.length && <Poses kind={kind} done={done} />}
      {marks?.length === 0 && !draft && <p className="bench-note">{kind.guide}</p>}
      {marks && marks.length > 0 && (
        <>
          <MarkTable
            kind={kind}
            marks={marks}
            fitted={hasFit ? fitted : undefined}
            onEdit={(mark) =>
              setDraft({
                id: mark.id,
                name: mark.name,
                from_s: mark.start_s,
                to_s: mark.end_s,
                value: mark.value,
                u: mark.u ?? kind.usual_u,
                pose: mark.pose,
                lane: mark.lane,
              })
            }
            onRemove={(mark) => void remove(mark)}
          />
          {hasFit && <FitLine fitted={fitted} isTrial={isTrial} saving={saving} onSave={() => void save()} />}
          {fitted && !hasFit && <p className="bench-note warning">No fit: {fitted.problem}.</p>}
        </>
      )}
      {fitted?.curves["allan"] && fitted.reads && <AllanPlot points={fitted.curves["allan"]} reads={fitted.reads} />}
      {fitted && fitted.heaps.length > 0 && <FoundHeaps lanes={fitted.heaps} />}
      {inUse && (
        <p className="constants">
          <a className="btn btn-sm btn-outline-primary" href={`/api/calibrations/${inUse.id}/constants`} download>
            Take the constants away
          </a>
        </p>
      )}
      {inUse && kind.undone_by.length > 0 && <Undone sensor={sensor} kind={kind} inUse={inUse} />}
      {bench.studies.length > 0 && (
        <p className="bench-note">
          {bench.studies.map((one) => one.label.toLowerCase()).join(", ")}:{" "}
          <Link to={`/sensors/${sensor.id}/studies`}>plan one, or see those that were taken</Link>.
        </p>
      )}
      <HeldAgainst {...props} />
      {look?.samples === 0 && <p className="bench-note">The recording is empty.</p>}
    </>
  );
}

/** What each lane read of each surface, as the marks tell. */
function FoundHeaps({ lanes }: { lanes: LaneHeaps[] }) {
  return (
    <section className="heaps in-a-sheet" aria-label="Heaps">
      <HeapColumns
        lanes={lanes}
        under={(lane) =>
          lane.why_not ? lane.why_not : lane.d_prime === null ? "" : `d′ ${grouped(Math.min(lane.d_prime, 999), 0)}`
        }
      />
      <p className="quiet">
        Each heap is what one sensor read of a surface; how far they stand apart, in their own scatter, is d′. Above 10
        is plenty, below 5 is little.
      </p>
    </section>
  );
}

/** What happened to the thing since that no reading tells: it leaves the calibration without grounds. */
function Undone({ sensor, kind, inUse }: { sensor: Sensor; kind: CalibrationKind; inUse: Calibration }) {
  const deed = useDeed();
  const put = (undone_by: string) =>
    body(
      client.PUT("/api/sensors/{sensor_id}/calibrations/{kind}", {
        params: { path: { sensor_id: sensor.id, kind: kind.name } },
        body: { calibration_id: inUse.id, undone_by },
      }),
    );
  return (
    <Form.Group className="undone" controlId="undone">
      <Form.Label>In use: {inUse.label}. Since then</Form.Label>
      <Form.Select
        size="sm"
        value={inUse.undone_by}
        onChange={(event) =>
          void deed(
            () => put(event.target.value),
            event.target.value ? `Noted: ${event.target.value}. It has to be made anew.` : "It holds again.",
            () => put(inUse.undone_by),
          )
        }
      >
        <option value="">nothing has changed</option>
        {kind.undone_by.map((one) => (
          <option key={one} value={one}>
            {one}
          </option>
        ))}
      </Form.Select>
    </Form.Group>
  );
}

/** What to do, in order, and what of it is done. */
function Poses({ kind, done }: { kind: CalibrationKind; done: Set<string> }) {
  return (
    <ol className="poses" aria-label="What to do">
      {kind.poses.map((pose) => (
        <li key={pose.name} className={done.has(pose.name) ? "is-done" : ""}>
          <b>{pose.name}</b> {pose.what} {pose.still && <span className="quiet">{pose.still}</span>}
        </li>
      ))}
    </ol>
  );
}
