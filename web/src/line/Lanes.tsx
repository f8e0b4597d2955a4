import { useEffect, useRef, useState } from "react";
import { usePreferences } from "../shell/preferences";
import type { LiveStore } from "./LiveStore";
import { drawLane } from "./drawLane";
import type { Column, Line } from "./frames";
import { laneColours } from "./laneColours";
import { readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import { shortNumber, statusWords } from "./words";

interface Props {
  store: LiveStore;
  line: Line;
  windowS: number;
  focus: number | null;
  onFocus: (channel: number) => void;
  onWidth: (columns: number) => void;
  isRaw: boolean;
  marks: { channel: number | null; from_s: number; to_s: number }[];
}

const NUMBERS_EVERY_MS = 200;

/** Every channel of the last seconds, one above the other on the same time. */
export function Lanes({ store, line, windowS, focus, onFocus, onWidth, isRaw, marks }: Props) {
  const channels = (line.shape?.columns ?? []).filter((column) => column.channel !== null);
  const holder = useRef<HTMLDivElement>(null);
  const canvases = useRef(new Map<number, HTMLCanvasElement>());
  const [ranges, setRanges] = useState(new Map<number, [number, number] | null>());
  const [{ theme }] = usePreferences();
  const latest = useRef({ windowS, isRaw, marks, line });
  useEffect(() => {
    latest.current = { windowS, isRaw, marks, line };
  });

  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const colours = laneColours(element);
    let request = 0;
    let told = 0;
    let frames = -1;
    function draw(now: number) {
      request = requestAnimationFrame(draw);
      if (store.frames === frames && !document.hidden) return;
      frames = store.frames;
      const { windowS: window_s, isRaw: raw, marks: marked, line: state } = latest.current;
      const nowS = store.t.at(-1) ?? 0;
      const drawn = new Map<number, [number, number] | null>();
      for (const [channel, canvas] of canvases.current) {
        const chained = raw ? undefined : store.chained.get(channel);
        const trace = chained ?? store.raw[channel];
        if (!trace) continue;
        const range = drawLane({
          canvas,
          t: chained?.t ?? store.t,
          v: trace.v,
          f: trace.f,
          nowS,
          windowS: window_s,
          recordedFromS: state.recording?.started_at_s ?? null,
          marks: marked.filter((mark) => mark.channel === null || mark.channel === channel),
          colours,
        });
        drawn.set(channel, range);
      }
      store.drawn();
      if (now - told > NUMBERS_EVERY_MS) {
        told = now;
        setRanges(drawn);
      }
    }
    request = requestAnimationFrame(draw);
    const watcher = new ResizeObserver(() => {
      const canvas = canvases.current.values().next().value;
      if (canvas) onWidth(Math.max(100, Math.round(canvas.clientWidth * window.devicePixelRatio)));
      frames = -1;
    });
    watcher.observe(element);
    return () => {
      cancelAnimationFrame(request);
      watcher.disconnect();
    };
  }, [store, theme, onWidth, channels.length]);

  const size = channels.length <= 3 ? "is-tall" : channels.length <= 7 ? "is-middle" : "is-low";
  return (
    <div ref={holder} className={`lanes ${size}`} role="list" aria-label="Channels">
      {channels.map((column) => {
        const channel = column.channel ?? 0;
        return (
          <div key={channel} role="listitem">
            <LaneRow
              column={column}
              together={
                column.sensor_id === null ? 1 : channels.filter((one) => one.sensor_id === column.sensor_id).length
              }
              isFocus={focus === channel}
              onFocus={() => onFocus(channel)}
              value={lastOf(store, channel, isRaw)}
              range={ranges.get(channel) ?? null}
              isChained={!isRaw && store.chained.has(channel)}
              canvasRef={(canvas) => {
                if (canvas) canvases.current.set(channel, canvas);
                else canvases.current.delete(channel);
              }}
            />
          </div>
        );
      })}
      <div className="lanes-time" aria-hidden="true">
        <span>−{windowS} s</span>
        <span>now</span>
      </div>
    </div>
  );
}

interface Last {
  value: number | null;
  status: string;
}

function lastOf(store: LiveStore, channel: number, isRaw: boolean): Last {
  const [raw, status] = store.newest[channel] ?? [null, "ok"];
  const chained = isRaw ? undefined : store.chained.get(channel);
  if (!chained) return { value: raw, status };
  const value = chained.v.at(-1) ?? null;
  return { value, status: value === null ? chained.last : status };
}

/** What a column counts that has no unit of its own; a plain number counts nothing. */
const UNITLESS: Record<string, string> = {
  "pulse count": "pulses",
  pulse: "high/low",
  "status word": "",
  number: "",
};

interface RowProps {
  column: Column;
  /** How many columns its sensor has: what is worked out is of all of them. */
  together: number;
  isFocus: boolean;
  onFocus: () => void;
  value: Last;
  range: [number, number] | null;
  isChained: boolean;
  canvasRef: (canvas: HTMLCanvasElement | null) => void;
}

function LaneRow({ column, together, isFocus, onFocus, value, range, isChained, canvasRef }: RowProps) {
  const units = useUnits();
  const reads = isChained && column.gives ? readsIn(units, column.gives.quantity.shown) : null;
  const unit = reads?.unit ?? (column.unit || (UNITLESS[column.quantity] ?? "counts"));
  const scaled = (si: number) => (reads ? reads.fromSi(si) : si);
  const shown = value.value === null ? null : scaled(value.value);
  const [low, high] = range ? [scaled(range[0]), scaled(range[1])] : [0, 0];
  return (
    <button type="button" className={`lane ${isFocus ? "is-focus" : ""}`} aria-pressed={isFocus} onClick={onFocus}>
      <span className="lane-name">
        <b>{column.name}</b>
        <span>
          {reads ? column.gives?.label.toLowerCase() : column.quantity === "number" ? "" : column.quantity}
          {reads && together > 1 && `, by ${together} columns`}
        </span>
      </span>
      <span className="lane-scale">
        {range && (
          <>
            <span>{shortNumber(high, high - low)}</span>
            <span>{shortNumber(low, high - low)}</span>
          </>
        )}
      </span>
      <canvas ref={canvasRef} className="lane-canvas" aria-hidden="true" />
      <span className="lane-value">
        {shown !== null ? (
          <>
            <b>{reads ? grouped(shown, reads.decimals) : shortNumber(shown, 0)}</b> {unit}
          </>
        ) : (
          <em>{statusWords(value.status)}</em>
        )}
      </span>
    </button>
  );
}
