import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client, problemOf } from "../../api/client";
import { type CalibrationKind, type Mark, type Recording, useRefresh } from "../../api/queries";
import { markSays } from "../../takes/markSays";
import { useNotices } from "../../shell/Notices";
import { HOLDS_KEYS, usePanel } from "../../shell/usePanel";
import { QuantityInput } from "../../units/QuantityInput";
import type { Shown } from "../../units/shown";

export interface MarkDraft {
  /** null for a new mark. */
  id: number | null;
  name: string;
  from_s: number | null;
  to_s: number | null;
  value: number | null;
  u: number;
  pose: string;
  /** The only lane it speaks of; null for all. */
  lane: number | null;
}

interface Props {
  recording: Recording;
  kind: CalibrationKind;
  /** Names of the sensor's lanes; one, or none, where there is nothing to choose. */
  lanes: string[];
  draft: MarkDraft;
  /** The mark as it was, when one is changed. */
  before: Mark | undefined;
  onDraft: (draft: MarkDraft) => void;
  onDone: () => void;
  /** Whether the stretch was found rather than dragged or typed. */
  isFound: boolean;
}

/** As finely as somebody with a good ruler reads. */
const finer = (shown: Shown): Shown => ({
  metric: { ...shown.metric, decimals: shown.metric.decimals + 1 },
  imperial: { ...shown.imperial, decimals: shown.imperial.decimals + 1 },
});

const quoted = (mark: Mark) => markSays(mark) && ` “${markSays(mark)}”`;

/** One mark: where something was held, and what was true there. */
export function MarkForm({ recording, kind, lanes, draft, before, onDraft, onDone, isFound }: Props) {
  const [problem, setProblem] = useState("");
  const refresh = useRefresh();
  const notices = useNotices();
  const set = (change: Partial<MarkDraft>) => onDraft({ ...draft, ...change });
  const { from_s, to_s, value } = draft;
  const asked = kind.asks_for;
  // A stretch that was dragged or found lacks only its truth.
  const panel = usePanel<HTMLFormElement>(
    from_s === null ? undefined : "[data-field=truth] input",
    `${from_s} ${to_s}`,
  );
  const ready = from_s !== null && to_s !== null && (asked === null || value !== null);

  async function save(event: FormEvent) {
    event.preventDefault();
    if (!ready) return;
    const mark = {
      name: draft.name.trim(),
      calibration: kind.name,
      pose: draft.pose,
      start_s: from_s,
      end_s: to_s,
      value,
      u: draft.u,
      unit: asked?.unit ?? "",
      lane: draft.lane,
    };
    try {
      if (draft.id === null) {
        const kept = await body(
          client.POST("/api/recordings/{recording_id}/marks", {
            params: { path: { recording_id: recording.id } },
            body: mark,
          }),
        );
        onDone();
        notices.done(`Marked${quoted(kept)}.`, async () => {
          await body(client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: kept.id } } }));
        });
        await refresh();
      } else {
        const path = { mark_id: draft.id };
        const channel = before?.channel ?? null;
        const kept = await body(client.PUT("/api/marks/{mark_id}", { params: { path }, body: { ...mark, channel } }));
        onDone();
        notices.done(`Changed${quoted(kept) || " the mark"}.`, async () => {
          if (!before) return;
          const { channel, calibration, pose, name, start_s, end_s, value, u, unit, lane } = before;
          const was = { channel, calibration, pose, name, start_s, end_s, value, u, unit, lane };
          await body(client.PUT("/api/marks/{mark_id}", { params: { path }, body: was }));
        });
        await refresh();
      }
    } catch (error) {
      setProblem(problemOf(error).detail);
    }
  }

  return (
    <Form
      ref={panel}
      {...HOLDS_KEYS}
      className="panel mark-form"
      onSubmit={(event) => void save(event)}
      aria-label="Mark"
    >
      <div className="fields">
        <QuantityInput label="From" unit="s" decimals={2} value={from_s} onChange={(value) => set({ from_s: value })} />
        <QuantityInput label="To" unit="s" decimals={2} value={to_s} onChange={(value) => set({ to_s: value })} />
        {asked && (
          <>
            <div data-field="truth">
              <QuantityInput
                label={kind.truth}
                shown={finer(asked.shown)}
                value={value}
                onChange={(next) => set({ value: next })}
              />
            </div>
            <QuantityInput
              label="Known to, ±"
              shown={asked.small}
              value={2 * draft.u}
              onChange={(next) => next !== null && set({ u: next / 2 })}
            />
          </>
        )}
        {kind.poses.length > 0 && (
          <Form.Group controlId="mark-pose" className="quantity">
            <Form.Label>Pose</Form.Label>
            <Form.Select size="sm" value={draft.pose} onChange={(event) => set({ pose: event.target.value })}>
              {kind.poses.map((pose) => (
                <option key={pose.name} value={pose.name}>
                  {pose.name}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
        )}
        {kind.takes_any_pose && lanes.length > 1 && (
          <Form.Group controlId="mark-lane" className="quantity">
            <Form.Label>Under</Form.Label>
            <Form.Select
              size="sm"
              value={draft.lane ?? ""}
              onChange={(event) => set({ lane: event.target.value === "" ? null : Number(event.target.value) })}
            >
              <option value="">all of them</option>
              {lanes.map((name, place) => (
                <option key={name} value={place}>
                  sensor {name}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
        )}
        <Form.Group controlId="mark-name" className="quantity">
          <Form.Label>Name</Form.Label>
          <Form.Control
            size="sm"
            maxLength={120}
            value={draft.name}
            placeholder="first nail"
            onChange={(event) => set({ name: event.target.value })}
          />
        </Form.Group>
      </div>
      <div className="panel-actions mark-deeds">
        <Button type="submit" size="sm" disabled={!ready}>
          Keep the mark
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Cancel
        </Button>
        <p className="bench-note">
          {from_s === null
            ? `Drag over the plot where ${kind.done}, or type the times.`
            : isFound && !asked
              ? "This stretch was found. Keep it, or drag over the plot for another."
              : isFound
                ? "It stood still here. What was true? Drag over the plot for another stretch."
                : asked
                  ? "What was true there?"
                  : "That is all there is to say."}
        </p>
      </div>
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
    </Form>
  );
}
