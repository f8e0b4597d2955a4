import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import type { View } from "../api/queries";
import { usePreferences } from "../shell/preferences";
import { display, grouped, useUnits } from "../units/units";
import { DecisionStrip } from "./DecisionStrip";
import { type Overlay, drawAbove, drawBelow } from "./overlays";
import { type Colours, coloursNow } from "./colours";

export interface Band {
  id: number;
  name: string;
  from_s: number;
  to_s: number;
}

interface Props {
  view: View;
  range: [number, number] | null;
  onRange: (range: [number, number] | null) => void;
  onAt: (at: number) => void;
  bands?: Band[];
  threshold?: { stop_m: number; go_m: number } | null;
  /** While true, dragging chooses a span instead of moving the window. */
  selecting?: boolean;
  onSelect?: (from: number, to: number) => void;
  csvHref: string;
  name: string;
  height?: number;
}

/** Distance over time with its uncertainty, marks, thresholds and flagged samples. */
export function RecordingPlot(props: Props) {
  const { view, range, onRange, onAt, threshold = null, selecting = false, csvHref, name, height = 300 } = props;
  const holder = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef(props);
  const [{ theme }] = usePreferences();
  const units = useUnits();
  const length = display(units, "length");
  const [hover, setHover] = useState<{ t: number; d: number | null } | null>(null);
  const [box, setBox] = useState<{ left: number; width: number; from: number; to: number } | null>(null);
  useEffect(() => {
    latest.current = props;
  });

  const perMetre = length.fromSi(1);
  const data = useMemo(() => alignedData(view, perMetre), [view, perMetre]);

  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const colours = coloursNow(element);
    const made = new uPlot(
      options(element.clientWidth, height, colours, length.unit, perMetre, selecting, latest, setHover, setBox),
      data,
      element,
    );
    plot.current = made;
    const interact = attach(made, latest);
    const watcher = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }));
    watcher.observe(element);
    return () => {
      watcher.disconnect();
      interact();
      made.destroy();
      plot.current = null;
    };
    // The plot is built anew only when its looks or ways change; data come below.
  }, [theme, perMetre, height, selecting]); // eslint-disable-line react-hooks/exhaustive-deps

  useEffect(() => {
    plot.current?.setData(data);
  }, [data, range, threshold?.stop_m, threshold?.go_m, props.bands]);

  const zoom = useCallback((factor: number) => zoomBy(plot.current, latest.current, factor), []);

  function onKeyDown(event: React.KeyboardEvent) {
    const step = 1 / Math.max(1, (view.samples - 1) / Math.max(view.duration_s, 1e-9));
    const at = view.at_s ?? 0;
    const width = view.to_s - view.from_s;
    const actions: Record<string, () => void> = {
      "+": () => zoom(0.5),
      "=": () => zoom(0.5),
      "-": () => zoom(2),
      "0": () => onRange(null),
      ArrowLeft: () => (event.shiftKey ? shift(-0.25 * width) : onAt(Math.max(0, at - step))),
      ArrowRight: () => (event.shiftKey ? shift(0.25 * width) : onAt(Math.min(view.duration_s, at + step))),
    };
    const action = actions[event.key];
    if (!action || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    action();
  }

  function shift(by: number) {
    const width = view.to_s - view.from_s;
    const from = Math.max(0, Math.min(view.duration_s - width, view.from_s + by));
    onRange([from, from + width]);
  }

  function savePicture() {
    const canvas = plot.current?.ctx.canvas;
    canvas?.toBlob((blob) => {
      if (!blob) return;
      const link = document.createElement("a");
      link.href = URL.createObjectURL(blob);
      link.download = `${name.replace(/[^A-Za-z0-9]+/g, "-")}.png`;
      link.click();
      window.setTimeout(() => URL.revokeObjectURL(link.href), 5_000);
    });
  }

  return (
    <div className={`plot ${selecting ? "is-selecting" : ""}`}>
      <div
        ref={holder}
        className="plot-canvas"
        tabIndex={0}
        role="application"
        aria-label={`Distance over time, ${grouped(view.shown_samples, 0)} readings. Plus and minus zoom, arrows move.`}
        onKeyDown={onKeyDown}
        onMouseLeave={() => setHover(null)}
      />
      {view.decisions.length > 0 && box && <DecisionStrip decisions={view.decisions} box={box} />}
      <div className="plot-foot">
        <span className="crosshair" aria-live="off">
          {hover ? (
            <>
              {grouped(hover.t, 2)} s{hover.d !== null && <> · {grouped(hover.d, units === "metric" ? 3 : 1)} {length.unit}</>}
            </>
          ) : (
            <>wheel zooms, drag moves, click takes a reading in hand</>
          )}
        </span>
        <span className="plot-buttons">
          <Button size="sm" variant="outline-primary" aria-label="Zoom in" onClick={() => zoom(0.5)}>
            +
          </Button>
          <Button size="sm" variant="outline-primary" aria-label="Zoom out" onClick={() => zoom(2)}>
            −
          </Button>
          <Button size="sm" variant="outline-primary" disabled={!range} onClick={() => onRange(null)}>
            All
          </Button>
          <a className="btn btn-sm btn-outline-primary" href={csvHref} download>
            CSV
          </a>
          <Button size="sm" variant="outline-primary" onClick={savePicture}>
            PNG
          </Button>
        </span>
      </div>
    </div>
  );
}

function alignedData(view: View, perMetre: number): uPlot.AlignedData {
  const distance = view.distance_m.map((d) => (d === null ? null : d * perMetre));
  const spread = (d: number) => interpolate(view.spread_at_m, view.spread_m, d);
  const upper = view.distance_m.map((d) => (d === null ? null : (d + spread(d)) * perMetre));
  const lower = view.distance_m.map((d) => (d === null ? null : (d - spread(d)) * perMetre));
  return [view.time_s, distance, upper, lower];
}

function interpolate(xs: number[], ys: number[], x: number): number {
  const last = xs.length - 1;
  if (last < 0) return 0;
  if (x <= (xs[0] ?? 0)) return ys[0] ?? 0;
  for (let i = 1; i <= last; i++) {
    const [a, b] = [xs[i - 1] ?? 0, xs[i] ?? 0];
    if (x <= b) {
      const share = b > a ? (x - a) / (b - a) : 0;
      return (ys[i - 1] ?? 0) * (1 - share) + (ys[i] ?? 0) * share;
    }
  }
  return ys[last] ?? 0;
}

type Latest = React.RefObject<Props>;

function options(
  width: number,
  height: number,
  colours: Colours,
  unit: string,
  perMetre: number,
  selecting: boolean,
  latest: Latest,
  onHover: (hover: { t: number; d: number | null } | null) => void,
  onBox: (box: { left: number; width: number; from: number; to: number }) => void,
): uPlot.Options {
  const font = '12px "Atkinson Hyperlegible Mono", monospace';
  const overlay = (): Overlay => ({ props: latest.current, colours, perMetre, font });
  return {
    width,
    height,
    pxAlign: false,
    legend: { show: false },
    padding: [10, 12, 0, 0],
    cursor: { drag: { x: selecting, y: false, setScale: false }, points: { size: 7 } },
    scales: {
      x: { time: false, range: () => shownRange(latest.current) },
      y: { range: (_, low, high) => heightRange(latest.current, low, high, perMetre) },
    },
    axes: [
      {
        stroke: colours.quiet,
        font,
        size: 28,
        space: 72,
        grid: { stroke: colours.hairline, width: 1 },
        ticks: { show: false },
        values: (_, splits) => splits.map((t, i) => `${Number(t.toFixed(3))}${i === splits.length - 1 ? " s" : ""}`),
      },
      {
        stroke: colours.quiet,
        font,
        size: 58,
        grid: { stroke: colours.hairline, width: 1 },
        ticks: { show: false },
        values: (_, splits) => splits.map((d, i) => `${Number(d.toFixed(4))}${i === splits.length - 1 ? ` ${unit}` : ""}`),
      },
    ],
    series: [
      {},
      { stroke: colours.ink, width: 1.5, spanGaps: false, points: { show: false } },
      { stroke: "transparent", width: 0, points: { show: false } },
      { stroke: "transparent", width: 0, points: { show: false } },
    ],
    bands: [{ series: [2, 3], fill: colours.spread }],
    hooks: {
      drawClear: [(u) => drawBelow(u, overlay())],
      draw: [
        (u) => drawAbove(u, overlay()),
        (u) => {
          const ratio = devicePixelRatio;
          onBox({
            left: u.bbox.left / ratio,
            width: u.bbox.width / ratio,
            from: u.scales["x"]?.min ?? 0,
            to: u.scales["x"]?.max ?? 1,
          });
        },
      ],
      setCursor: [
        (u) => {
          const index = u.cursor.idx;
          const left = u.cursor.left ?? -1;
          if (left < 0 || index == null) return;
          onHover({ t: u.posToVal(left, "x"), d: (u.data[1]?.[index] as number | null | undefined) ?? null });
        },
      ],
      setSelect: [
        (u) => {
          if (u.select.width < 4) return;
          const from = u.posToVal(u.select.left, "x");
          const to = u.posToVal(u.select.left + u.select.width, "x");
          latest.current.onSelect?.(Math.max(0, from), to);
          u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
        },
      ],
    },
  };
}

function shownRange({ view, range }: Props): [number, number] {
  const [from, to] = range ?? [0, view.duration_s];
  return to > from ? [from, to] : [from - 0.5, from + 0.5];
}

function heightRange({ range, threshold }: Props, low: number, high: number, perMetre: number): [number, number] {
  if (low == null || high == null) return [0, perMetre];
  if (range) {
    const room = Math.max(0.01 * perMetre, 0.15 * (high - low));
    return [low - room, high + room];
  }
  const top = Math.max(high, (threshold?.go_m ?? 0) * perMetre);
  return [0, top * 1.1];
}

function zoomBy(u: uPlot | null, props: Props, factor: number, around?: number) {
  if (!u) return;
  const [from, to] = shownRange(props);
  const centre = around ?? props.view.at_s ?? (from + to) / 2;
  const inside = centre >= from && centre <= to ? centre : (from + to) / 2;
  const narrowest = Math.min(0.2, props.view.duration_s);
  const width = Math.max(narrowest, (to - from) * factor);
  if (width >= props.view.duration_s) {
    props.onRange(null);
    return;
  }
  const share = (inside - from) / (to - from);
  const start = Math.min(Math.max(0, inside - share * width), props.view.duration_s - width);
  props.onRange([start, start + width]);
}

/** Wheel zoom, drag pan and click; returns what takes them away again. */
function attach(u: uPlot, latest: Latest): () => void {
  const over = u.over;
  let panning: { x: number; from: number; to: number; moved: boolean } | null = null;

  function onWheel(event: WheelEvent) {
    event.preventDefault();
    const at = u.posToVal(event.clientX - over.getBoundingClientRect().left, "x");
    zoomBy(u, latest.current, event.deltaY < 0 ? 0.8 : 1.25, at);
  }
  function onDown(event: MouseEvent) {
    if (event.button !== 0 || latest.current.selecting) return;
    const [from, to] = shownRange(latest.current);
    panning = { x: event.clientX, from, to, moved: false };
  }
  function onMove(event: MouseEvent) {
    if (!panning) return;
    const pixels = event.clientX - panning.x;
    if (Math.abs(pixels) > 3) panning.moved = true;
    const { range, view, onRange } = latest.current;
    if (!panning.moved || !range) return;
    const width = panning.to - panning.from;
    const by = (-pixels / over.clientWidth) * width;
    const from = Math.min(Math.max(0, panning.from + by), view.duration_s - width);
    onRange([from, from + width]);
  }
  function onUp(event: MouseEvent) {
    if (panning && !panning.moved) {
      latest.current.onAt(Math.max(0, u.posToVal(event.clientX - over.getBoundingClientRect().left, "x")));
    }
    panning = null;
  }
  over.addEventListener("wheel", onWheel, { passive: false });
  over.addEventListener("mousedown", onDown);
  window.addEventListener("mousemove", onMove);
  window.addEventListener("mouseup", onUp);
  return () => {
    over.removeEventListener("wheel", onWheel);
    over.removeEventListener("mousedown", onDown);
    window.removeEventListener("mousemove", onMove);
    window.removeEventListener("mouseup", onUp);
  };
}
