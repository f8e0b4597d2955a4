import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import type { Marks } from "../../api/queries";
import { useDeed } from "../../shell/useDeed";
import { Empty, Skeleton } from "../../shell/States";
import { useKey } from "../../shell/keys";
import { BenchPlot } from "../BenchPlot";
import { RecordingHead } from "../RecordingHead";
import type { BenchProps } from "../types";
import { FitLine } from "./FitLine";
import { MarkForm, type MarkDraft } from "./MarkForm";
import { MarkTable } from "./MarkTable";

type Mark = Marks["marks"][number];

/** Mark true distances, see the fit, keep it. */
export function CalibrateBench(props: BenchProps) {
  const { sensor, recording, view, marks, asRead, setAsRead } = props;
  const [draft, setDraft] = useState<MarkDraft | null>(null);
  const [saving, setSaving] = useState(false);
  const deed = useDeed();
  const still = marks?.next_still ?? null;
  const start = () =>
    setDraft({
      id: null,
      name: "",
      from_s: still?.from_s ?? null,
      to_s: still?.to_s ?? null,
      true_m: null,
      true_u_m: 0.001,
    });
  useKey("m", recording && !draft ? start : null);
  useKey("Escape", draft ? () => setDraft(null) : null);
  useKey("k", marks?.fit && !saving && !draft ? () => void save() : null);

  if (!recording) {
    return (
      <Empty title="There is nothing to mark yet.">
        <p>
          A calibration compares readings with a ruler.{" "}
          <Link to={`/sensors/${sensor.id}/heard`}>Bring in a log first</Link>, with the target held still at two or
          more known distances.
        </p>
      </Empty>
    );
  }

  function remove(mark: Mark) {
    const params = { path: { mark_id: mark.id } };
    return deed(
      () => body(client.DELETE("/api/marks/{mark_id}", { params })),
      `The mark “${mark.name}” is gone.`,
      () => body(client.POST("/api/marks/{mark_id}/restore", { params })),
    );
  }

  async function save() {
    if (!recording) return;
    setSaving(true);
    const before = { calibration_id: sensor.calibration?.id ?? null };
    await deed(
      () =>
        body(
          client.POST("/api/recordings/{recording_id}/calibrations", {
            params: { path: { recording_id: recording.id } },
          }),
        ),
      "The calibration is kept and in use.",
      () =>
        body(client.PATCH("/api/sensors/{sensor_id}", { params: { path: { sensor_id: sensor.id } }, body: before })),
    );
    setSaving(false);
  }

  const bands = [
    ...(marks?.marks ?? []).filter((mark) => mark.id !== draft?.id),
    ...(draft && draft.from_s !== null && draft.to_s !== null
      ? [{ id: 0, name: draft.name || "this mark", start_s: draft.from_s, end_s: draft.to_s }]
      : []),
  ].map((mark) => ({ id: mark.id, name: mark.name, from_s: mark.start_s, to_s: mark.end_s }));

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
            {marks?.fit && <option value="fit">with these marks</option>}
            <option value="none">as read</option>
            {sensor.calibration && <option value="saved">with the one in use</option>}
          </Form.Select>
        }
      >
        <span className="head-actions">
          <Button size="sm" disabled={draft !== null} onClick={start}>
            Mark a true distance <kbd>M</kbd>
          </Button>
        </span>
      </RecordingHead>
      {draft && (
        <MarkForm
          key={draft.id ?? "new"}
          recording={recording}
          draft={draft}
          before={marks?.marks.find((mark) => mark.id === draft.id)}
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
      {marks?.marks.length === 0 && !draft && (
        <p className="bench-note">
          Press <kbd>M</kbd>: a stretch where the target stood still is proposed, or drag over another, and type what
          the ruler said. Two marks far apart give offset and scale; a third shows whether they agree.
        </p>
      )}
      {marks && marks.marks.length > 0 && (
        <>
          <MarkTable
            marks={marks}
            onEdit={(mark) =>
              setDraft({
                id: mark.id,
                name: mark.name,
                from_s: mark.start_s,
                to_s: mark.end_s,
                true_m: mark.true_m,
                true_u_m: mark.true_u_m,
              })
            }
            onRemove={(mark) => void remove(mark)}
          />
          {marks.fit ? (
            <FitLine fit={marks.fit} saving={saving} onSave={() => void save()} />
          ) : (
            <p className="bench-note warning">No fit: {marks.fit_problem}.</p>
          )}
        </>
      )}
      {view?.samples === 0 && <p className="bench-note">The recording is empty.</p>}
    </>
  );
}
