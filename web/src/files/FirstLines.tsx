import type { ReactNode } from "react";
import type { LogFile } from "./columns";

const COLOURS = 6;

/** Which of a few tints a column has, in the lines and in the table below them. */
export const tint = (column: number | null) =>
  column === null ? "part-name" : column < 0 ? "part-time" : `part-${column % COLOURS}`;

/** The person's own first lines, with what was understood coloured in them. */
export function FirstLines({ file }: { file: LogFile }) {
  return (
    <div className="first-lines" role="group" aria-label="The first lines of the file" tabIndex={0}>
      {file.lines.map((line) => (
        <div key={line.number} className={`first-line is-${line.verdict.replaceAll(" ", "-")}`}>
          <span className="line-number">{line.number}</span>
          <code>{painted(line)}</code>
          {line.parts.length === 0 && line.text.trim() !== "" && (
            <span className="why">{line.reason || "no values"}</span>
          )}
        </div>
      ))}
    </div>
  );
}

function painted(line: LogFile["lines"][number]): ReactNode[] {
  const found: ReactNode[] = [];
  let at = 0;
  for (const part of line.parts) {
    found.push(line.text.slice(at, part.start));
    found.push(
      <mark key={part.start} className={tint(part.column)}>
        {line.text.slice(part.start, part.end)}
      </mark>,
    );
    at = part.end;
  }
  found.push(line.text.slice(at) || " ");
  return found;
}
