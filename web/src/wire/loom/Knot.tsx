import type { Point } from "./geometry";
import type { Severity } from "./model";
import type { Palette } from "./palette";

/** A finding, tied into the thread: shape and colour say how bad. */
export function Knot({ at, severity, palette }: { at: Point; severity: Severity; palette: Palette }) {
  const colour = severity === "error" ? palette.error : severity === "warning" ? palette.warning : palette.note;
  return (
    <g role="img" aria-label={`${severity} here`} transform={`translate(${at.x} ${at.y})`}>
      <circle r={11} fill={palette.sheet} stroke={colour} strokeWidth={2} />
      <path
        d="M -16 -4 C -6 -10 6 10 16 4 M -16 4 C -6 10 6 -10 16 -4"
        fill="none"
        stroke={colour}
        strokeWidth={1.8}
        strokeLinecap="round"
      />
      {severity === "error" && <rect x={-4.4} y={-4.4} width={8.8} height={8.8} fill={colour} />}
      {severity === "warning" && <path d="M 0 -5.6 L 5.6 4.6 L -5.6 4.6 Z" fill={colour} />}
      {severity === "note" && <circle r={4.6} fill={colour} />}
    </g>
  );
}
