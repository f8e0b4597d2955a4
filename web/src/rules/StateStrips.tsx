import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import type { Replay, Trace, Version, Visits } from "./queries";
import { blocksOf, ticksOf } from "./strips";

interface Props {
  told: Replay;
  names: string[];
  atS: number | null;
  stretch: [number, number] | null;
  onAt: (at: number | null) => void;
  onStretch: (stretch: [number, number] | null) => void;
  onRemove: (place: number) => void;
}

const LEFT = 128;
const TRACE = 62;
const STRIP = 30;
const TRUTH = 20;
const AXIS = 20;

/** Traces above, the state of every version below them, what was true at the bottom; one time for all. */
export function StateStrips({ told, names, atS, stretch, onAt, onStretch, onRemove }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(860);
  const from = useRef<number | null>(null);
  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const watcher = new ResizeObserver(() => setWidth(Math.max(320, element.clientWidth)));
    watcher.observe(element);
    return () => watcher.disconnect();
  }, []);
  const inner = width - LEFT - 8;
  const span = told.to_s - told.from_s;
  const x = (t: number) => LEFT + ((Math.min(Math.max(t, told.from_s), told.to_s) - told.from_s) / span) * inner;
  const t = (px: number) => told.from_s + (Math.min(Math.max(px - LEFT, 0), inner) / inner) * span;
  const traces = told.traces.length * TRACE;
  const strips = told.versions.length * STRIP;
  const truth = told.truths.length > 0 ? TRUTH : 0;
  const height = traces + strips + truth + AXIS + 6;
  const px = (event: PointerEvent<Element>) => event.clientX - (holder.current?.getBoundingClientRect().left ?? 0);

  function down(event: PointerEvent<SVGSVGElement>) {
    if (px(event) < LEFT) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = px(event);
    onStretch(null);
  }
  function move(event: PointerEvent<SVGSVGElement>) {
    const began = from.current;
    if (began === null || Math.abs(px(event) - began) < 5) return;
    onStretch([t(Math.min(began, px(event))), t(Math.max(began, px(event)))]);
  }
  function up(event: PointerEvent<SVGSVGElement>) {
    const began = from.current;
    from.current = null;
    if (began !== null && Math.abs(px(event) - began) < 5) onAt(t(px(event)));
  }
  function key(event: KeyboardEvent) {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (step) {
      event.preventDefault();
      const by = event.shiftKey ? span / 20 : span / 400;
      onAt(Math.min(told.to_s, Math.max(told.from_s, (atS ?? told.from_s) + step * by)));
    }
  }
  return (
    <div ref={holder} className="strips-holder">
      <svg
        className="state-strips"
        width={width}
        height={height}
        role="application"
        aria-label={
          `${told.traces.length} traces and ${told.versions.length} versions over ${grouped(span, 1)} s; ` +
          "arrows move the time in hand"
        }
        tabIndex={0}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onKeyDown={key}
      >
        <StripPatterns />
        {told.traces.map((trace, place) => (
          <TraceRow key={trace.label} trace={trace} top={place * TRACE} x={x} from={LEFT} width={inner} />
        ))}
        {told.versions.map((version, place) => (
          <VersionRow
            key={place}
            name={names[place] ?? ""}
            version={version}
            top={traces + place * STRIP}
            x={x}
            onRemove={place > 0 ? () => onRemove(place) : null}
          />
        ))}
        {truth > 0 && (
          <g transform={`translate(0 ${traces + strips})`} className="truth-row">
            <text x={LEFT - 8} y={14} textAnchor="end">
              would be right
            </text>
            {told.truths
              .filter((one) => one.to_s > told.from_s && one.from_s < told.to_s)
              .map((one) => (
                <g key={`${one.state} ${one.from_s}`}>
                  <rect x={x(one.from_s)} y={4} width={Math.max(1, x(one.to_s) - x(one.from_s))} height={12} rx={2} />
                  {x(one.to_s) - x(one.from_s) > 7 * one.state.length && (
                    <text x={x(one.from_s) + 5} y={14}>
                      {one.state}
                    </text>
                  )}
                </g>
              ))}
          </g>
        )}
        <g transform={`translate(0 ${traces + strips + truth})`} className="time-axis">
          {ticksOf(told.from_s, told.to_s, inner / 90).map((one) => (
            <text key={one} x={x(one)} y={15} textAnchor="middle">
              {grouped(one, span < 5 ? 2 : span < 40 ? 1 : 0)}
            </text>
          ))}
          <text x={LEFT - 8} y={15} textAnchor="end">
            s
          </text>
        </g>
        {stretch && (
          <rect
            className="stretch"
            x={x(stretch[0])}
            y={0}
            width={Math.max(1, x(stretch[1]) - x(stretch[0]))}
            height={height - AXIS}
          />
        )}
        {atS !== null && atS >= told.from_s && atS <= told.to_s && (
          <line className="at-line" x1={x(atS)} x2={x(atS)} y1={0} y2={height - AXIS} />
        )}
      </svg>
      <Legend states={told.versions.find((one) => one.error === "")?.states ?? []} />
    </div>
  );
}

/** Which ground and pattern is which state, for those too brief to bear their name. */
function Legend({ states }: { states: string[] }) {
  return (
    <ul className="strip-legend" aria-label="States">
      {states.map((name, place) => (
        <li key={name}>
          <svg className="state-strips" width={26} height={14} aria-hidden="true">
            <g className={`state-block ground-${place % 6}`}>
              <rect width={26} height={14} />
              {FILLS[place % FILLS.length] && (
                <rect width={26} height={14} fill={FILLS[place % FILLS.length]} className="pattern" />
              )}
            </g>
          </svg>
          {name}
        </li>
      ))}
    </ul>
  );
}

/** Patterns that tell one state from another without colour. */
export function StripPatterns() {
  return (
    <defs>
      <pattern id="strip-dots" width="7" height="7" patternUnits="userSpaceOnUse">
        <circle cx="3" cy="3" r="1.1" />
      </pattern>
      <pattern id="strip-lines" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="7" />
      </pattern>
      <pattern id="strip-cross" width="9" height="9" patternUnits="userSpaceOnUse">
        <path d="M0 0L9 9M9 0L0 9" />
      </pattern>
      <pattern id="strip-wave" width="10" height="8" patternUnits="userSpaceOnUse">
        <path d="M0 4Q2.5 0 5 4T10 4" fill="none" />
      </pattern>
      <pattern id="strip-bars" width="6" height="8" patternUnits="userSpaceOnUse">
        <line x1="1" y1="0" x2="1" y2="8" />
      </pattern>
    </defs>
  );
}

const FILLS = [
  "",
  "url(#strip-lines)",
  "url(#strip-dots)",
  "url(#strip-cross)",
  "url(#strip-wave)",
  "url(#strip-bars)",
];

interface BlocksProps {
  visits: Visits;
  states: string[];
  causes: string[];
  x: (t: number) => number;
  height: number;
}

/** The blocks of one strip: each state its ground and pattern, its name where there is room. */
export function StateBlocks({ visits, states, causes, x, height }: BlocksProps) {
  return (
    <>
      {blocksOf(visits, x).map((block, n) => {
        const name = states[block.state] ?? "?";
        const pattern = FILLS[block.state % FILLS.length];
        return (
          <g key={n} className={`state-block ground-${block.state % 6}`}>
            <title>{`${name}${block.many > 1 ? ` and ${block.many - 1} more` : ""}: ${causes[block.why] ?? ""}`}</title>
            <rect x={block.from} y={2} width={block.width} height={height} />
            {pattern && (
              <rect x={block.from} y={2} width={block.width} height={height} fill={pattern} className="pattern" />
            )}
            {block.width > 7.2 * name.length + 10 && (
              <>
                <rect
                  className="name-ground"
                  x={block.from + 4}
                  y={5}
                  width={7.1 * name.length + 6}
                  height={height - 6}
                  rx={3}
                />
                <text x={block.from + 7} y={height / 2 + 6}>
                  {name}
                </text>
              </>
            )}
          </g>
        );
      })}
    </>
  );
}

interface VersionProps {
  name: string;
  version: Version;
  top: number;
  x: (t: number) => number;
  onRemove: (() => void) | null;
}

function VersionRow({ name, version, top, x, onRemove }: VersionProps) {
  return (
    <g transform={`translate(0 ${top})`}>
      <text x={LEFT - (onRemove ? 24 : 8)} y={19} textAnchor="end" className="strip-name">
        {name}
      </text>
      {onRemove && (
        <text
          x={LEFT - 8}
          y={19}
          textAnchor="end"
          className="strip-remove"
          role="button"
          tabIndex={0}
          aria-label={`Take away ${name} ×`}
          onPointerDown={(event) => event.stopPropagation()}
          onClick={onRemove}
          onKeyDown={(event) => event.key === "Enter" && onRemove()}
        >
          ×
        </text>
      )}
      {version.error ? (
        <text x={LEFT + 6} y={19} className="strip-error">
          {version.error}
        </text>
      ) : (
        <StateBlocks visits={version.visits} states={version.states} causes={version.causes} x={x} height={STRIP - 6} />
      )}
    </g>
  );
}

interface TraceProps {
  trace: Trace;
  top: number;
  x: (t: number) => number;
  from: number;
  width: number;
}

/** What an input said: an amount as a line with the numbers that conditions speak of, a decision as words. */
function TraceRow({ trace, top, x, from, width }: TraceProps) {
  const units = useUnits();
  const reads = readsIn(units, trace.output.quantity.shown);
  const states = trace.output.quantity.states;
  const [sensor, ...rest] = trace.label.split(": ");
  const label = (
    <>
      <text x={from - 8} y={20} textAnchor="end" className="strip-name">
        {sensor}
      </text>
      <text x={from - 8} y={35} textAnchor="end" className="quiet-text">
        {rest.join(": ")}
        {states.length === 0 && reads.unit ? `, ${reads.unit}` : ""}
      </text>
    </>
  );
  if (states.length > 0) {
    const worded = trace.time_s.map((at, n) => ({ at, place: trace.low[n] ?? null, to: trace.time_s[n + 1] ?? at }));
    return (
      <g transform={`translate(0 ${top})`}>
        {label}
        {worded.map(({ at, place, to }, n) =>
          place === null ? null : (
            <g key={n} className={`word-block look-${states[place]?.look ?? "calm"}`}>
              <title>{states[place]?.word}</title>
              <rect x={x(at)} y={18} width={Math.max(1, x(to) - x(at))} height={24} />
              {x(to) - x(at) > 7.4 * (states[place]?.word.length ?? 9) && (
                <text x={x(at) + 5} y={34}>
                  {states[place]?.word}
                </text>
              )}
            </g>
          ),
        )}
      </g>
    );
  }
  const values = [...trace.low, ...trace.high].filter((one) => one !== null);
  let low = Math.min(...values, ...trace.cuts);
  let high = Math.max(...values, ...trace.cuts);
  if (!(high > low)) [low, high] = [low - 1, high + 1];
  const y = (value: number) => 6 + (1 - (value - low) / (high - low)) * (TRACE - 16);
  let path = "";
  let lifted = true;
  trace.time_s.forEach((at, n) => {
    const a = trace.low[n];
    const b = trace.high[n];
    if (a == null || b == null) {
      lifted = true;
      return;
    }
    path += `${lifted ? "M" : "L"}${x(at).toFixed(1)} ${y(a).toFixed(1)}`;
    if (b !== a) path += `L${x(at).toFixed(1)} ${y(b).toFixed(1)}`;
    lifted = false;
  });
  return (
    <g transform={`translate(0 ${top})`}>
      {label}
      <line className="trace-foot" x1={from} x2={from + width} y1={TRACE - 4} y2={TRACE - 4} />
      {trace.cuts.map((cut) => (
        <line key={cut} className="trace-cut" x1={from} x2={from + width} y1={y(cut)} y2={y(cut)} />
      ))}
      <path className="trace-line" d={path} />
      {/* Above all lines, and those that would lie on each other side by side. */}
      {trace.cuts.map((cut, n) => (
        <text
          key={cut}
          className="trace-cut-number"
          x={from + width - (trace.cuts.length - 1 - n) * 40}
          y={y(cut) - 3}
          textAnchor="end"
        >
          {grouped(reads.fromSi(cut), Math.min(2, reads.decimals))}
        </text>
      ))}
    </g>
  );
}
