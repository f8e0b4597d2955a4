import { useId, useRef } from "react";
import type { Schemas } from "../api/client";
import { heldByTouch } from "../shell/heldByTouch";
import { grouped } from "../units/units";
import { type Axis, axisOf, decimalsOf, outline, ticksOf } from "./shape";

export type LaneHeaps = Schemas["LaneHeapsOut"];

interface Line {
  at: number;
  half: number;
}

interface Props {
  lanes: LaneHeaps[];
  /** A few words under a column. */
  under: (lane: LaneHeaps, place: number) => string;
  /** Whether those words want an eye kept on them. */
  isBad?: (place: number) => boolean;
  /** A threshold for each lane, in what the heaps are counted in. */
  lines?: Line[];
  onLine?: (place: number, at: number) => void;
  chosen?: number;
  onChoose?: (place: number) => void;
}

const HEIGHT = 236;
const TOP = 12;
const LEFT = 46;
const COLUMN = 104;
const BOTTOM = 34;

/** The heaps of every lane side by side on one axis, each sideways, a threshold between that can be dragged. */
export function HeapColumns({ lanes, under, isBad, lines, onLine, chosen, onChoose }: Props) {
  const axis = axisOf(lanes);
  const width = LEFT + COLUMN * lanes.length + 8;
  const y = (value: number) => TOP + (1 - (value - axis.low) / (axis.high - axis.low)) * HEIGHT;
  const drawing = useRef<SVGSVGElement>(null);
  const hatch = useId();

  /** The value under the pointer. */
  function valueAt(clientY: number): number {
    const box = drawing.current?.getBoundingClientRect();
    if (!box) return axis.low;
    const at = (clientY - box.top) * ((TOP + HEIGHT + BOTTOM) / box.height);
    const share = 1 - (at - TOP) / HEIGHT;
    return axis.low + Math.min(1, Math.max(0, share)) * (axis.high - axis.low);
  }

  return (
    <div className="heap-scroll">
      <svg
        ref={drawing}
        className="heap-columns"
        viewBox={`0 0 ${width} ${TOP + HEIGHT + BOTTOM}`}
        width={width}
        height={TOP + HEIGHT + BOTTOM}
        role="group"
        aria-label="Heaps of each sensor"
      >
        <defs>
          <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="5" height="5" className="heap-other-ground" />
            <line x1="0" y1="0" x2="0" y2="5" className="heap-other-line" />
          </pattern>
        </defs>
        {ticksOf(axis).map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={width} y1={y(tick)} y2={y(tick)} className="heap-grid" />
            <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" className="heap-tick">
              {grouped(tick, Math.max(0, decimalsOf(axis) - 1))}
            </text>
          </g>
        ))}
        {lanes.map((lane, place) => (
          <g key={lane.lane} transform={`translate(${LEFT + COLUMN * place} 0)`}>
            {onChoose && (
              <rect
                className={`heap-column ${chosen === place ? "is-chosen" : ""}`}
                x={0}
                y={0}
                width={COLUMN}
                height={TOP + HEIGHT + BOTTOM}
                onClick={() => onChoose(place)}
              />
            )}
            <line x1={8} x2={8} y1={TOP} y2={TOP + HEIGHT} className="heap-stem" />
            <Heaps lane={lane} axis={axis} y={y} hatch={hatch} />
            {lines?.[place] && (
              <Threshold
                name={lane.lane}
                line={lines[place]}
                axis={axis}
                y={y}
                valueAt={valueAt}
                onLine={onLine && ((at) => onLine(place, at))}
                onChoose={onChoose && (() => onChoose(place))}
              />
            )}
            <text x={8} y={TOP + HEIGHT + 15} className="heap-name">
              {lane.lane === "" ? "sensor" : `sensor ${lane.lane}`}
            </text>
            <text x={8} y={TOP + HEIGHT + 29} className={isBad?.(place) || lane.why_not ? "heap-bad" : "heap-under"}>
              {under(lane, place)}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

interface HeapsProps {
  lane: LaneHeaps;
  axis: Axis;
  y: (value: number) => number;
  hatch: string;
}

function Heaps({ lane, axis, y, hatch }: HeapsProps) {
  const drawn = (heap: LaneHeaps["dark"]) => outline(heap, axis, y, 8, COLUMN - 28);
  return (
    <>
      {lane.light.n > 0 && <path d={drawn(lane.light)} className="heap-light" />}
      {lane.dark.n > 0 && <path d={drawn(lane.dark)} className="heap-dark" />}
      {lane.others.map((one) => (
        <g key={one.name}>
          <path d={drawn(one)} className="heap-other" fill={`url(#${hatch})`} />
          {one.mean !== null && (
            <text x={COLUMN - 8} y={y(one.mean) + 4} textAnchor="end" className="heap-under">
              {one.name}
            </text>
          )}
        </g>
      ))}
    </>
  );
}

interface ThresholdProps {
  name: string;
  line: Line;
  axis: Axis;
  y: (value: number) => number;
  valueAt: (clientY: number) => number;
  onLine: ((at: number) => void) | undefined;
  onChoose: (() => void) | undefined;
}

/** The line between the heaps, with the band in which the last state stands. */
function Threshold({ name, line, axis, y, valueAt, onLine, onChoose }: ThresholdProps) {
  const step = (axis.high - axis.low) / 200;
  return (
    <g
      ref={onLine && heldByTouch}
      className={onLine ? "heap-line can-move" : "heap-line"}
      role="slider"
      tabIndex={onLine ? 0 : -1}
      aria-label={`Threshold of sensor ${name}`}
      aria-orientation="vertical"
      aria-valuemin={axis.low}
      aria-valuemax={axis.high}
      aria-valuenow={Number(line.at.toFixed(decimalsOf(axis)))}
      onFocus={onChoose}
      onKeyDown={(event) => {
        const by = { ArrowUp: step, ArrowDown: -step }[event.key];
        if (by === undefined || !onLine) return;
        event.preventDefault();
        onLine(line.at + by * (event.shiftKey ? 10 : 1));
      }}
      onPointerDown={(event) => {
        if (!onLine) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        onChoose?.();
      }}
      onPointerMove={(event) => {
        if (onLine && event.currentTarget.hasPointerCapture(event.pointerId)) onLine(valueAt(event.clientY));
      }}
    >
      <rect
        x={0}
        width={COLUMN - 12}
        y={Math.min(y(line.at + line.half), y(line.at - line.half))}
        height={Math.max(1, Math.abs(y(line.at + line.half) - y(line.at - line.half)))}
        className="heap-band"
      />
      <line x1={0} x2={COLUMN - 12} y1={y(line.at)} y2={y(line.at)} className="heap-at" />
      <rect x={0} width={COLUMN - 12} y={y(line.at) - 9} height={18} className="heap-grip" />
      <text x={COLUMN - 12} y={y(line.at) - 5} textAnchor="end" className="heap-value">
        {grouped(line.at, decimalsOf(axis))}
      </text>
    </g>
  );
}
