import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client, problemOf } from "../api/client";
import { useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";
import { Skeleton, Trouble } from "../shell/States";
import { BoardParts } from "./BoardParts";
import { DeviceParts } from "./DeviceParts";
import { TextField } from "./TextField";
import { type Document, isRecord, textAt, withValue } from "./document";
import { type FamilySummary, useFamilySchema } from "./queries";

interface Props {
  kind: FamilySummary["kind"];
  /** The own family being changed; null for a new one. */
  name: string | null;
  text: string;
  onDone: (name: string) => void;
  onLeave: () => void;
}

const WORDS = [
  { field: "label", label: "What people call it" },
  { field: "what", label: "What it is" },
  { field: "recognise", label: "How to tell it" },
];

/** A family's description, part by part; and the whole of it as text, for who likes that better. */
export function FamilyEditor({ kind, name, text: first, onDone, onLeave }: Props) {
  const [text, setText] = useState(first);
  const [problem, setProblem] = useState("");
  const schema = useFamilySchema(kind);
  const queries = useQueryClient();
  const refresh = useRefresh();
  const notices = useNotices();
  const document = parsed(text);
  const change = (next: Document) => setText(JSON.stringify(next, null, 2));

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
      });
      queries.setQueryData(["family", kind, saved.name], saved);
      onDone(saved.name);
      await refresh();
    } catch (error) {
      setProblem(problemOf(error).detail);
    }
  }

  return (
    <section className="family-view family-editor" aria-label="Description">
      <h2>{name === null ? "A family of your own" : `Change ${textAt(document, ["label"]) || name}`}</h2>
      {!document && <p className="field-problem">The text is no JSON; the fields come back when it is.</p>}
      {document && schema.isPending && <Skeleton lines={8} />}
      {schema.isError && <Trouble error={schema.error} retry={() => void schema.refetch()} />}
      {document && schema.data && (
        <>
          <div className="fields">
            <TextField
              id="family-name"
              label="Name in files: a–z, 0–9, _"
              className="wide"
              disabled={name !== null}
              value={textAt(document, ["name"])}
              onChange={(next) => change(withValue(document, ["name"], next) as Document)}
            />
            {WORDS.filter(({ field }) => field !== "recognise" || kind === "board").map(({ field, label }) => (
              <TextField
                key={field}
                id={`family-${field}`}
                label={label}
                className="wide"
                rows={field === "label" ? undefined : 2}
                value={textAt(document, [field])}
                onChange={(next) => change(withValue(document, [field], next) as Document)}
              />
            ))}
          </div>
          {kind === "board" ? (
            <BoardParts document={document} schema={schema.data} onChange={change} />
          ) : (
            <DeviceParts document={document} schema={schema.data} onChange={change} />
          )}
        </>
      )}
      <details open={!document}>
        <summary>The whole description as text</summary>
        <Form.Control
          as="textarea"
          aria-label="The whole description as text"
          rows={18}
          spellCheck={false}
          className="family-text"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </details>
      <div className="family-save">
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
            Cancel
          </Button>
        </div>
      </div>
    </section>
  );
}

function parsed(text: string): Document | null {
  try {
    const value: unknown = JSON.parse(text);
    return isRecord(value) ? value : null;
  } catch {
    return null;
  }
}
