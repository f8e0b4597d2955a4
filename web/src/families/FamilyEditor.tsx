import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client, problemOf } from "../api/client";
import { useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";
import { FigureFields } from "./FigureFields";
import type { FamilySummary } from "./queries";

interface Props {
  kind: FamilySummary["kind"];
  /** The own family being changed; null for a new one. */
  name: string | null;
  text: string;
  onDone: (name: string) => void;
  onLeave: () => void;
}

/** A family's description: its figures as fields, and the whole of it as text. */
export function FamilyEditor({ kind, name, text: first, onDone, onLeave }: Props) {
  const [text, setText] = useState(first);
  const [problem, setProblem] = useState("");
  const refresh = useRefresh();
  const notices = useNotices();
  const document = parsed(text);

  async function save() {
    const put = (what: string) =>
      name === null
        ? body(client.POST("/api/families/{kind}", { params: { path: { kind } }, body: { text: what } }))
        : body(client.PUT("/api/families/{kind}/{name}", { params: { path: { kind, name } }, body: { text: what } }));
    try {
      const saved = await put(text);
      const params = { path: { kind, name: saved.name } };
      notices.done(`${saved.label} is kept.`, async () => {
        await (name === null
          ? body(client.DELETE("/api/families/{kind}/{name}", { params }))
          : body(client.PUT("/api/families/{kind}/{name}", { params, body: { text: first } })));
        await refresh();
      });
      await refresh();
      onDone(saved.name);
    } catch (error) {
      setProblem(problemOf(error).detail);
    }
  }

  return (
    <section className="family-view" aria-label="Description">
      <h2>{name === null ? "A family of your own" : `Change ${name}`}</h2>
      {document ? <FigureFields document={document} onChange={(next) => setText(JSON.stringify(next, null, 2))} canRename={name === null} /> : <p className="field-problem">The text is no JSON; the fields come back when it is.</p>}
      <Form.Group controlId="family-text">
        <Form.Label>All of it, pins and leads too</Form.Label>
        <Form.Control as="textarea" rows={18} spellCheck={false} className="family-text" value={text} onChange={(event) => setText(event.target.value)} />
      </Form.Group>
      {problem && (
        <div className="trouble" role="alert">
          <p>{problem}</p>
          <p className="quiet">Nothing was changed.</p>
        </div>
      )}
      <div className="panel-actions">
        <Button size="sm" disabled={!document} onClick={() => void save()}>
          Keep it
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onLeave}>
          Leave it
        </Button>
      </div>
    </section>
  );
}

function parsed(text: string): Record<string, unknown> | null {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === "object" && value !== null && !Array.isArray(value) ? (value as Record<string, unknown>) : null;
  } catch {
    return null;
  }
}
