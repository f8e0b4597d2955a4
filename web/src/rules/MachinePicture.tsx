import { type PointerEvent, useMemo, useRef, useState } from "react";
import { heldByTouch } from "../shell/heldByTouch";
import { type Lying, STONE, pictureOf } from "./layout";
import type { Checked } from "./queries";
import { ANY, type Rules } from "./rules";

/** What is in hand on the picture: a state, or a transition, by its place. */
export type Held = { kind: "state"; place: number } | { kind: "transition"; place: number } | null;

interface Props {
  rules: Rules;
  checked: Checked | undefined;
  held: Held;
  onHold: (held: Held) => void;
  /** A way was led from one state to another; `any` from the band above. */
  onLead: (from: string, to: string) => void;
  /** The state it is in at the time in hand, or on the line. */
  now: string | null;
}

/** The machine as stones and the ways between them; a way is led from the dot of one to another. */
export function MachinePicture({ rules, checked, held, onHold, onLead, now }: Props) {
  const picture = useMemo(() => pictureOf(rules), [rules]);
  const box = useRef<SVGSVGElement>(null);
  const [led, setLed] = useState<{ from: string; x: number; y: number } | null>(null);
  const width = Math.max(picture.width, 320);
  const { how = "hold", hold_s = 0.3, go_to = "" } = rules.when_blind ?? {};
  const blind =
    (how === "hold" || how === "last") && hold_s !== null && go_to ? `blind for ${hold_s} s → ${go_to}` : "";
  const said = (place: number) => checked?.transitions[place]?.said ?? rules.transitions[place]?.when ?? "";

  function pointAt(event: PointerEvent): [number, number] {
    const rect = box.current?.getBoundingClientRect();
    if (!rect) return [0, 0];
    return [((event.clientX - rect.left) * width) / rect.width, ((event.clientY - rect.top) * width) / rect.width];
  }
  function stoneAt([x, y]: [number, number]): Lying | undefined {
    return picture.states.find(
      (one) => x >= one.x && x <= one.x + STONE.width && y >= one.y && y <= one.y + STONE.height,
    );
  }
  function lead(from: string, event: PointerEvent) {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const [x, y] = pointAt(event);
    setLed({ from, x, y });
  }
  function drop(event: PointerEvent) {
    if (!led) return;
    const to = stoneAt(pointAt(event));
    setLed(null);
    if (to && to.name !== led.from) onLead(led.from, to.name);
  }
  const is = (kind: "state" | "transition", place: number) => held?.kind === kind && held.place === place;
  function move(event: PointerEvent) {
    if (!led) return;
    const [x, y] = pointAt(event);
    setLed({ ...led, x, y });
  }
  return (
    <div className="machine-holder">
      <svg
        ref={box}
        className="machine"
        viewBox={`0 0 ${width} ${picture.height}`}
        style={{ minWidth: Math.min(width, 560), maxWidth: width * 1.15 }}
        role="group"
        aria-label={`${rules.states.length} states and ${rules.transitions.length} ways between them`}
      >
        <defs>
          <marker id="way-end" viewBox="0 0 8 8" refX="6" refY="4" markerWidth="7" markerHeight="7" orient="auto">
            <path d="M0 0.5L7 4L0 7.5z" />
          </marker>
        </defs>
        <g className="any-band">
          <rect x={8} y={picture.bandY - 8} width={width - 16} height={22} rx={11} />
          <text x={22} y={picture.bandY + 7}>
            from anywhere
          </text>
          {blind && (
            <text x={width / 2} y={picture.bandY + 7} textAnchor="middle">
              {blind}
            </text>
          )}
          <LeadDot
            from={ANY}
            x={width - 24}
            y={picture.bandY + 3}
            onDown={lead}
            onMove={move}
            onUp={drop}
            onGone={() => setLed(null)}
          />
        </g>
        {picture.fromAny.map(({ place, x, y }, n) => (
          <Chip
            key={place}
            number={place + 1}
            said={said(place)}
            isHeld={is("transition", place)}
            path={`M${x + 24 + n * 22} ${picture.bandY + 14}V${y - 6}`}
            at={[x + 24 + n * 22, (picture.bandY + 14 + y) / 2]}
            onHold={() => onHold({ kind: "transition", place })}
          />
        ))}
        {picture.ways.map((way) => {
          const place = way.place;
          return (
            <Chip
              key={way.key}
              number={place === null ? null : place + 1}
              said={place === null ? `after ${seconds(rules, way.from)}` : said(place)}
              isHeld={place !== null && is("transition", place)}
              path={way.path}
              at={way.at}
              onHold={() =>
                onHold(
                  place === null
                    ? { kind: "state", place: rules.states.findIndex((one) => one.name === way.from) }
                    : { kind: "transition", place },
                )
              }
            />
          );
        })}
        {picture.states.map((lying) => {
          const place = rules.states.findIndex((one) => one.name === lying.name);
          const state = rules.states[place];
          if (!state) return null;
          const notes = [
            rules.start === state.name ? "begins here" : "",
            state.stay_s ? `stays ${state.stay_s} s` : "",
            state.leave_after_s != null ? `for ${state.leave_after_s} s` : "",
            state.is_blocking ? "blind" : "",
          ].filter(Boolean);
          const words = [
            `${state.moves ? "▸" : "▪"} ${state.name}`,
            short(state.action ?? "", 23),
            short(notes.join(" · "), 28),
          ];
          return (
            <g key={lying.name} transform={`translate(${lying.x} ${lying.y})`}>
              <g
                className={[
                  "state-stone",
                  state.moves ? "moves" : "",
                  state.is_alarm ? "alarm" : "",
                  is("state", place) ? "is-held" : "",
                  now === state.name ? "is-now" : "",
                ].join(" ")}
                role="button"
                tabIndex={0}
                aria-pressed={is("state", place)}
                onClick={() => onHold({ kind: "state", place })}
                onKeyDown={(event) => {
                  if (event.key === "Enter" || event.key === " ") {
                    event.preventDefault();
                    onHold({ kind: "state", place });
                  }
                }}
              >
                <path d={stonePath} />
                {now === state.name && <path className="now-ring" d={stonePath} />}
                <text x={14} y={21} className="state-name">
                  {`${words[0] ?? ""} `}
                </text>
                <text x={14} y={36} className="state-action">
                  {`${words[1] ?? ""} `}
                </text>
                <text x={14} y={49} className="state-note">
                  {`${words[2] ?? ""} `}
                </text>
              </g>
              <LeadDot
                from={state.name}
                x={STONE.width}
                y={STONE.height - 13}
                onDown={lead}
                onMove={move}
                onUp={drop}
                onGone={() => setLed(null)}
              />
            </g>
          );
        })}
        {led && <LedWay led={led} states={picture.states} bandY={picture.bandY} width={width} />}
      </svg>
    </div>
  );
}

interface DotProps {
  from: string;
  x: number;
  y: number;
  onDown: (from: string, event: PointerEvent) => void;
  onMove: (event: PointerEvent) => void;
  onUp: (event: PointerEvent) => void;
  onGone: () => void;
}

/** Where a way begins that is led by hand. */
function LeadDot({ from, x, y, onDown, onMove, onUp, onGone }: DotProps) {
  return (
    <g
      ref={heldByTouch}
      className="lead-dot"
      role="img"
      aria-label={`Lead a way from ${from === ANY ? "anywhere" : from}`}
      onPointerDown={(event) => onDown(from, event)}
      onPointerMove={onMove}
      onPointerUp={onUp}
      onPointerCancel={onGone}
    >
      <circle className="lead-reach" cx={x} cy={y} r={14} />
      <circle cx={x} cy={y} r={6} />
    </g>
  );
}

/** A pebble: rounder at one end than at the other, so that nothing looks like a box of a chart. */
const { width: W, height: H } = STONE;
const stonePath = [
  `M16 0H${W - 26}C${W - 4} 0 ${W} 12 ${W} ${H / 2}`,
  `S${W - 6} ${H} ${W - 28} ${H}`,
  `H18C4 ${H} 0 ${H - 12} 0 ${H - 26}`,
  "V16C0 5 5 0 16 0z",
].join("");

function seconds(rules: Rules, name: string): string {
  return `${rules.states.find((one) => one.name === name)?.leave_after_s ?? 0} s`;
}

function short(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

interface ChipProps {
  number: number | null;
  said: string;
  isHeld: boolean;
  path: string;
  at: [number, number];
  onHold: () => void;
}

/** A way with its number; what it waits for is told when it is pointed at. */
function Chip({ number, said, isHeld, path, at, onHold }: ChipProps) {
  return (
    <g className={`way ${number === null ? "by-time" : ""} ${isHeld ? "is-held" : ""}`} onClick={onHold}>
      <title>{said}</title>
      <path className="way-reach" d={path} />
      <path className="way-line" d={path} markerEnd="url(#way-end)" />
      <g
        role="button"
        tabIndex={0}
        aria-label={`${number === null ? "◷" : `${number}:`} ${said}`}
        aria-pressed={isHeld}
        onKeyDown={(event) => {
          if (event.key === "Enter" || event.key === " ") {
            event.preventDefault();
            onHold();
          }
        }}
      >
        <circle cx={at[0]} cy={at[1]} r={9} />
        <text x={at[0]} y={at[1] + 4} textAnchor="middle" aria-hidden="true">
          {number ?? "◷"}
        </text>
      </g>
    </g>
  );
}

interface LedProps {
  led: { from: string; x: number; y: number };
  states: Lying[];
  bandY: number;
  width: number;
}

function LedWay({ led, states, bandY, width }: LedProps) {
  const from = states.find((one) => one.name === led.from);
  const x = from ? from.x + STONE.width : width - 24;
  const y = from ? from.y + STONE.height - 14 : bandY + 3;
  return <path className="way-led" d={`M${x} ${y}L${led.x} ${led.y}`} />;
}
