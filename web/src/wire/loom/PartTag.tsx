import { Knot } from "./Knot";
import { type Box, type Point, tagShape } from "./geometry";
import type { Leg, Tag } from "./model";
import type { Palette } from "./palette";
import { softLine } from "./thread";

interface Props {
  tag: Tag;
  box: Box;
  runs: Map<string, Point[][]>;
  palette: Palette;
  isBold: boolean;
}

/** A part that stands by itself: its legs run to pins and joints, and branch to rails. */
export function PartTag({ tag, box, runs, palette, isBold }: Props) {
  const { body, ports } = tagShape(tag);
  const middle = box.x + box.width / 2;
  return (
    <>
      {tag.legs.map((leg) => {
        const port = ports.get(leg.id);
        const at = port && { x: box.x + port.x, y: box.y + port.y };
        return at && (leg.way === "up" || leg.way === "down") ? (
          <Flag key={leg.id} leg={leg} at={at} palette={palette} />
        ) : (
          <g key={leg.id} data-lead={leg.id} className="loom-leg" fill="none" strokeLinecap="round">
            {(runs.get(leg.id) ?? []).map((points, index) => (
              <g key={index}>
                <path d={softLine(points)} stroke={palette.ground} strokeWidth={6.5} />
                <path d={softLine(points)} stroke={palette.casing} strokeWidth={isBold ? 4 : 2.6} />
                <path d={softLine(points)} stroke="transparent" strokeWidth={14} />
              </g>
            ))}
          </g>
        );
      })}
      <rect
        x={box.x}
        y={box.y + body.y}
        width={box.width}
        height={body.height}
        rx={6}
        fill={palette.sheet}
        stroke={tag.severity === "error" ? palette.error : palette.casing}
        strokeWidth={tag.severity === "error" ? 2 : 1.3}
      />
      <text x={middle} y={box.y + body.y + 22} textAnchor="middle" fontSize={12.6} fill={palette.quiet}>
        <tspan fontWeight={700} fill={palette.ink}>
          {tag.key}
        </tspan>{" "}
        {tag.words}
      </text>
      {tag.legs.map((leg) => {
        const port = ports.get(leg.id);
        if (!port || leg.way === "up" || leg.way === "down") return null;
        const isWest = leg.way === "west";
        return (
          <g key={leg.id} data-lead={leg.id} className="loom-lead">
            <circle cx={box.x + port.x} cy={box.y + port.y} r={4.4} fill={palette.casing} stroke={palette.sheet} />
            <circle cx={box.x + port.x} cy={box.y + port.y} r={11} fill="transparent" />
            {leg.label && (
              <text
                x={box.x + port.x + (isWest ? 9 : -9)}
                y={box.y + port.y + 4}
                textAnchor={isWest ? "start" : "end"}
                fontSize={12.2}
                fill={palette.ink}
              >
                {leg.label}
              </text>
            )}
          </g>
        );
      })}
      {tag.severity && (
        <Knot at={{ x: box.x + box.width - 4, y: box.y + body.y + 2 }} severity={tag.severity} palette={palette} />
      )}
    </>
  );
}

/** A leg that goes to a rail: a short branch to that rail's flag. */
function Flag({ leg, at, palette }: { leg: Leg; at: Point; palette: Palette }) {
  const isUp = leg.way === "up";
  const sign = isUp ? -1 : 1;
  const width = 7 * leg.label.length + 12;
  return (
    <g data-lead={leg.id} className="loom-leg">
      <line x1={at.x} x2={at.x} y1={at.y} y2={at.y + 12 * sign} stroke={palette.casing} strokeWidth={2.4} />
      <rect
        x={at.x - width / 2}
        y={at.y + 20 * sign - 8}
        width={width}
        height={16}
        rx={3}
        fill={isUp ? palette.bands[0] : palette.groundBand}
      />
      <text
        x={at.x}
        y={at.y + 20 * sign + 4.2}
        textAnchor="middle"
        fontSize={12.2}
        fontWeight={700}
        fill={isUp ? palette.bandInk[0] : palette.groundInk}
      >
        {leg.label}
      </text>
    </g>
  );
}
