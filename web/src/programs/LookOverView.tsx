import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { FileDrop } from "../files/FileDrop";
import { Skeleton, Trouble } from "../shell/States";
import { type ProgramFinding, lookOver } from "./queries";

/** A second pair of eyes on a person's own program: its text on one side, what stands out on the other. */
export function LookOverView({ rigId }: { rigId: number }) {
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const [asked, setAsked] = useState<{ text: string; name: string } | null>(null);
  const area = useRef<HTMLTextAreaElement>(null);

  async function take(file: File | undefined) {
    if (!file) return;
    const content = await file.text();
    setText(content);
    setName(file.name);
    setAsked({ text: content, name: file.name });
  }

  function show(line: number) {
    const lines = text.split("\n");
    const start = lines.slice(0, line - 1).reduce((sum, one) => sum + one.length + 1, 0);
    const field = area.current;
    if (!field) return;
    field.focus({ preventScroll: true });
    field.setSelectionRange(start, start + (lines[line - 1]?.length ?? 0));
    field.scrollTop = (field.scrollHeight / lines.length) * Math.max(0, line - 5);
  }

  return (
    <div className="program-body constants-body">
      <section className="program-own" aria-label="Your program">
        <FileDrop label="A program’s file" className="program-drop" sending={{ send: take }}>
          {(choose) => (
            <>
              <Form.Group controlId="own-program">
                <Form.Label>Your program, in C++ or Python: paste it, or drop its file here</Form.Label>
                <Form.Control
                  ref={area}
                  as="textarea"
                  spellCheck={false}
                  wrap="off"
                  value={text}
                  onChange={(event) => {
                    setText(event.target.value);
                    setName("");
                  }}
                />
              </Form.Group>
              <div className="page-actions">
                <Button size="sm" disabled={!text.trim()} onClick={() => setAsked({ text, name })}>
                  Look it over
                </Button>
                <Button size="sm" variant="outline-primary" onClick={choose}>
                  Choose a file
                </Button>
                <span className="quiet">It is read here, never run, and not kept.</span>
              </div>
            </>
          )}
        </FileDrop>
      </section>
      <section aria-label="What stands out">
        {asked ? (
          <Seen rigId={rigId} asked={asked} isOlder={asked.text !== text} show={show} />
        ) : (
          <>
            <h2>What stands out</h2>
            <p>
              The text is held against this rig: its wiring, its line, the thresholds in use. What you get is the line,
              why it matters, and what to write instead.
            </p>
          </>
        )}
      </section>
    </div>
  );
}

interface SeenProps {
  rigId: number;
  asked: { text: string; name: string };
  isOlder: boolean;
  show: (line: number) => void;
}

function Seen({ rigId, asked, isOlder, show }: SeenProps) {
  const seen = useQuery({
    queryKey: ["programs", rigId, "look-over", asked],
    retry: false,
    gcTime: 0,
    queryFn: () => lookOver(rigId, asked),
  });
  if (seen.isPending) return <Skeleton lines={6} />;
  if (seen.isError) return <Trouble error={seen.error} />;
  const { findings, more, looked_for, not_looked_for, as_written_here, language } = seen.data;
  const count = findings.length + more;
  return (
    <>
      <h2>{count === 0 ? "Nothing was found" : count === 1 ? "One thing stands out" : `${count} things stand out`}</h2>
      <p className="quiet">
        Read as {language}. {as_written_here === true && "It is a program written here, unchanged. "}
        {as_written_here === false && "It was written here and has been changed since. "}
        {isOlder && <b>The text has changed since it was looked over.</b>}
      </p>
      <ol className="program-findings">
        {findings.map((one) => (
          <Finding key={`${one.id} ${one.line}`} finding={one} show={show} />
        ))}
      </ol>
      {more > 0 && <p>… and {more} more. Mend these first.</p>}
      <details open={count === 0}>
        <summary>
          {looked_for.length} things were looked for
          {not_looked_for.length > 0 &&
            `, ${not_looked_for.length} ${not_looked_for.length === 1 ? "was" : "were"} not`}
        </summary>
        <ul>
          {looked_for.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
        {not_looked_for.length > 0 && <h3>Not looked for</h3>}
        <ul>
          {not_looked_for.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      </details>
    </>
  );
}

function Finding({ finding, show }: { finding: ProgramFinding; show: (line: number) => void }) {
  return (
    <li>
      <button type="button" className="program-line" onClick={() => show(finding.line)}>
        <span>line {finding.line}</span>
        <code>{finding.code}</code>
      </button>
      <h3>{finding.message}</h3>
      <p>{finding.why}</p>
      <p className="program-repair">{finding.repair}</p>
    </li>
  );
}
