import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Schemas, body, client, problemOf } from "../../api/client";
import { type Recording, useRefresh } from "../../api/queries";
import { useNotices } from "../../shell/Notices";
import { HOLDS_KEYS, usePanel } from "../../shell/usePanel";
import { QuantityInput } from "../../units/QuantityInput";

export interface MarkDraft {
  /** null for a new mark. */
  id: number | null;
  name: string;
  from_s: number | null;
  to_s: number | null;
  true_m: number | null;
  true_u_m: number;
}

interface Props {
  recording: Recording;
  draft: MarkDraft;
  /** The mark as it was, when one is changed. */
  before: Schemas["MarkOut"] | undefined;
  onDraft: (draft: MarkDraft) => void;
  onDone: () => void;
  /** Whether the stretch was found rather than dragged or typed. */
  isFound: boolean;
}

/** One mark: where it stood still, and what the ruler said. */
export function MarkForm({ recording, draft, before, onDraft, onDone, isFound }: Props) {
  const [problem, setProblem] = useState("");
  const refresh = useRefresh();
  const notices = useNotices();
  const set = (change: Partial<MarkDraft>) => onDraft({ ...draft, ...change });
  const { from_s, to_s, true_m } = draft;
  // A stretch that was dragged or found lacks only its truth.
  const panel = usePanel<HTMLFormElement>(
    from_s === null ? undefined : "[data-field=truth] input",
    `${from_s} ${to_s}`,
  );
  const ready = from_s !== null && to_s !== null && true_m !== null;

  async function save(event: FormEvent) {
    event.preventDefault();
    if (from_s === null || to_s === null || true_m === null) return;
    const mark = {
      name: draft.name.trim() || `at ${true_m.toFixed(3)} m`,
      start_s: from_s,
      end_s: to_s,
      true_m,
      true_u_m: draft.true_u_m,
    };
    try {
      if (draft.id === null) {
        const kept = await body(
          client.POST("/api/recordings/{recording_id}/marks", {
            params: { path: { recording_id: recording.id } },
            body: mark,
          }),
        );
        const id = Math.max(...kept.marks.map((one) => one.id));
        onDone();
        notices.done(`Marked “${mark.name}”.`, async () => {
          await body(client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: id } } }));
        });
        await refresh();
      } else {
        const path = { mark_id: draft.id };
        await body(client.PUT("/api/marks/{mark_id}", { params: { path }, body: mark }));
        onDone();
        notices.done(`Changed “${mark.name}”.`, async () => {
          if (!before) return;
          const { name, start_s, end_s, true_u_m } = before;
          await body(
            client.PUT("/api/marks/{mark_id}", {
              params: { path },
              body: { name, start_s, end_s, true_m: before.true_m, true_u_m },
            }),
          );
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
        <div data-field="truth">
          <QuantityInput
            label="True distance"
            quantity="length"
            decimals={4}
            value={true_m}
            onChange={(value) => set({ true_m: value })}
          />
        </div>
        <QuantityInput
          label="Known to, ±"
          quantity="smallLength"
          decimals={1}
          value={2 * draft.true_u_m}
          onChange={(value) => value !== null && set({ true_u_m: value / 2 })}
        />
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
            ? "Drag over the plot where the target stood still, or type the times."
            : isFound
              ? "It stood still here. What did the ruler say? Drag over the plot for another stretch."
              : "What did the ruler say there?"}
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
