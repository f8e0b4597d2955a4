import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { FromAfar } from "./FromAfar";
import { isHeard, useOpenLine } from "./queries";

interface Props {
  rigId: number;
  /** What to know before one goes to open the line. */
  hint?: string;
  children: (line: Schemas["LineOut"]) => ReactNode;
}

/** What needs a line that sensors can be read from; while there is none, why not. */
export function HeardLine({ rigId, hint = "", children }: Props) {
  const line = useOpenLine(rigId, true);
  if (line.isPending) return <FromAfar says="Looking for the line …" />;
  if (line.data && isHeard(line.data)) return children(line.data);
  if (line.data && line.data.state !== "ended") {
    return (
      <FromAfar says="Making out the line …">
        <p>A line is open, but too few of its rows have come to tell which column is what.</p>
      </FromAfar>
    );
  }
  return (
    <FromAfar says="No line is open.">
      <p>
        <Link to={`/rigs/${rigId}/line`}>Open the line of this rig</Link>, then come back{hint && `: ${hint}`}.
      </p>
    </FromAfar>
  );
}
