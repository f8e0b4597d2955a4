import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { usePreferences } from "../shell/preferences";
import { display, grouped, useUnits } from "../units/units";
import { DecisionStrip } from "./DecisionStrip";
import { coloursNow } from "./colours";
import { alignedData } from "./data";
import { attach, zoomBy } from "./gestures";
import { options } from "./options";
import type { PlotProps } from "./props";

/** Distance over time with its uncertainty, marks, thresholds and flagged samples. */
export function RecordingPlot(props: PlotProps) {
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
              {grouped(hover.t, 2)} s
              {hover.d !== null && (
                <>
                  {" "}
                  · {grouped(hover.d, units === "metric" ? 3 : 1)} {length.unit}
                </>
              )}
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
