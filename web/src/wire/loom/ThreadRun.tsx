import { wireColour } from "../wireColours";
import { Beads } from "./Beads";
import { Knot } from "./Knot";
import type { LoomLayout, Point } from "./geometry";
import type { Thread } from "./model";
import type { Palette } from "./palette";
import { lengthOf, middleOf, softLine } from "./thread";

interface Props {
  thread: Thread;
  layout: LoomLayout;
  palette: Palette;
  /** What the ground rail is called. */
  ground: string;
  isBold: boolean;
}

/** A thread from its card to where it goes, with the parts strung on it. */
export function ThreadRun({ thread, layout, palette, ground, isBold }: Props) {
  const runs = layout.runs.get(thread.id) ?? [];
  const colour = wireColour(thread.colour);
  return (
    <>
      {runs.map((points, index) => (
        <g key={index} fill="none" strokeLinecap="round">
          <path d={softLine(points)} stroke={palette.ground} strokeWidth={isBold ? 9 : 7.5} />
          <path d={softLine(points)} stroke={palette.casing} strokeWidth={isBold ? 5.4 : 4} />
          <path d={softLine(points)} stroke={colour} strokeWidth={isBold ? 4 : 2.6} />
          <path d={softLine(points)} stroke="transparent" strokeWidth={14} />
        </g>
      ))}
      <Beads thread={thread} place={layout.strings.get(thread.id)} palette={palette} colour={colour} ground={ground} />
      {thread.severity && <Knot at={knotPlace(runs)} severity={thread.severity} palette={palette} />}
    </>
  );
}

function knotPlace(runs: Point[][]): Point {
  const longest = [...runs].sort((a, b) => lengthOf(b) - lengthOf(a))[0] ?? [];
  return middleOf(longest);
}
