import type { ReactNode } from "react";

interface Props {
  /** A few words. */
  says: string;
  children?: ReactNode;
}

/** A few words that are read from the bench, and below them, in plain size, what to do about it. */
export function FromAfar({ says, children }: Props) {
  return (
    <div className="hands-none" aria-live="polite">
      <p className="hands-says">{says}</p>
      {children}
    </div>
  );
}
