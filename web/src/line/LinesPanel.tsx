import { useEffect, useRef, useState } from "react";
import Form from "react-bootstrap/Form";
import type { LiveStore } from "./LiveStore";
import type { JudgedLine, Line } from "./frames";

const MARKS: Record<string, string> = {
  read: "✓",
  "read in part": "◐",
  header: "≡",
  text: "·",
  bad: "✕",
  torn: "≠",
  waiting: "…",
};

/** The lines as they arrive, each with what became of it. */
export function LinesPanel({ store, line }: { store: LiveStore; line: Line }) {
  const [shown, setShown] = useState<JudgedLine[]>([]);
  const [oddOnly, setOddOnly] = useState(false);
  const [isHeld, setHeld] = useState(false);
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    if (isHeld) return;
    const timer = window.setInterval(() => {
      setShown(store.lines.filter((one) => !oddOnly || one.verdict !== "read").slice(-80));
    }, 250);
    return () => window.clearInterval(timer);
  }, [store, oddOnly, isHeld]);
  useEffect(() => {
    if (!isHeld) list.current?.scrollTo({ top: list.current.scrollHeight });
  }, [shown, isHeld]);
  return (
    <div className="lines-panel">
      <p className="lines-says">
        {line.shape
          ? line.shape.says
          : "How these lines are built is not known yet; a few more like each other will tell."}
      </p>
      {line.clock_note && <p className="lines-says quiet">{line.clock_note}</p>}
      <div className="lines-tools">
        <Form.Check
          id="odd-only"
          checked={oddOnly}
          onChange={(event) => setOddOnly(event.target.checked)}
          label="only what did not fit"
        />
        <Form.Check id="held" checked={isHeld} onChange={(event) => setHeld(event.target.checked)} label="hold still" />
      </div>
      <ol ref={list} className="raw-lines" aria-label="Lines as they arrive" tabIndex={0}>
        {shown.map((one) => (
          <li key={one.number} className={`verdict-${one.verdict.replaceAll(" ", "-")}`}>
            <span className="verdict" title={one.reason || one.verdict}>
              {MARKS[one.verdict] ?? "?"}
              <span className="visually-hidden">{one.verdict}</span>
            </span>
            <code>{one.text || " "}</code>
            {one.reason && <span className="reason">{one.reason}</span>}
          </li>
        ))}
        {shown.length === 0 && <li className="none">{oddOnly ? "All lines fit so far." : "Nothing yet."}</li>}
      </ol>
    </div>
  );
}
