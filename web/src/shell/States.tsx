import type { ReactNode } from "react";
import Button from "react-bootstrap/Button";
import { problemOf } from "../api/client";

/** Grey shapes where something is about to be. */
export function Skeleton({ lines = 4 }: { lines?: number }) {
  return (
    <div className="skeleton" role="status" aria-label="Loading">
      {Array.from({ length: lines }, (_, index) => (
        <span key={index} style={{ width: `${88 - ((index * 17) % 40)}%` }} />
      ))}
    </div>
  );
}

/** What went wrong, what was kept, what to do. */
export function Trouble({ error, retry }: { error: unknown; retry?: () => void }) {
  const problem = problemOf(error);
  return (
    <div className="trouble" role="alert">
      <h2>{problem.title}</h2>
      <p>{problem.detail}</p>
      {problem.fields.length > 1 && (
        <ul>
          {problem.fields.map((field) => (
            <li key={field.field + field.message}>
              {field.field}: {field.message}
            </li>
          ))}
        </ul>
      )}
      {problem.kept && <p className="quiet">{problem.kept}</p>}
      {retry && (
        <Button size="sm" variant="outline-primary" onClick={retry}>
          Try again
        </Button>
      )}
    </div>
  );
}

/** Nothing here yet, and what to do first. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="empty">
      <h2>{title}</h2>
      {children}
    </div>
  );
}
