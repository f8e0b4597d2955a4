import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { download, pictureName } from "../shell/download";
import { usePreferences } from "../shell/preferences";
import { saidIn, useReads } from "../units/shown";
import { grouped } from "../units/units";
import { DecisionStrip } from "./DecisionStrip";
import { coloursNow } from "./colours";
import { alignedData } from "./data";
import { attach, zoomBy } from "./gestures";
import { options } from "./options";
import type { PlotProps } from "./props";
import { shownRange } from "./ranges";

/** An output over time with its uncertainty, marks, levels and flagged samples. */
export function RecordingPlot(props: PlotProps) {
  const { seen, decisions, durationS, range, onRange, onAt, selecting = false, csvHref, name, height = 300 } = props;
  const holder = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef(props);
  const [{ theme }] = usePreferences();
  const reads = useReads(seen.quantity.shown);
  const [hover, setHover] = useState<{ t: number; v: number | null } | null>(null);
  const [box, setBox] = useState<{ left: number; width: number; from: number; to: number } | null>(null);
  useEffect(() => {
    latest.current = props;
  });

  // What is read does not change while the unit does not.
  const { unit } = reads;
  const data = useMemo(() => alignedData(seen, reads), [seen, unit]); // eslint-disable-line react-hooks/exhaustive-deps
  const lanes = seen.lines.length;

  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const colours = coloursNow(element);
    const made = new uPlot(
      options(element.clientWidth, height, colours, reads, lanes, selecting, latest, setHover, setBox),
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
  }, [theme, unit, lanes, height, selecting]); // eslint-disable-line react-hooks/exhaustive-deps

  useEffect(() => {
    plot.current?.setData(data);
  }, [data, range, seen.levels, props.bands]);

  const zoom = useCallback((factor: number) => zoomBy(plot.current, latest.current, factor), []);

  function onKeyDown(event: React.KeyboardEvent) {
    const step = 1 / Math.max(1, (seen.samples - 1) / Math.max(durationS, 1e-9));
    const at = seen.at_s ?? 0;
    const width = shownRange(props)[1] - shownRange(props)[0];
    const actions: Record<string, () => void> = {
      "+": () => zoom(0.5),
      "=": () => zoom(0.5),
      "-": () => zoom(2),
      "0": () => onRange(null),
      ArrowLeft: () => (event.shiftKey ? shift(-0.25 * width) : onAt(Math.max(0, at - step))),
      ArrowRight: () => (event.shiftKey ? shift(0.25 * width) : onAt(Math.min(durationS, at + step))),
    };
    const action = actions[event.key];
    if (!action || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    action();
  }

  function shift(by: number) {
    const [start, end] = shownRange(props);
    const width = end - start;
    const from = Math.max(0, Math.min(durationS - width, start + by));
    onRange([from, from + width]);
  }

  function savePicture() {
    const canvas = plot.current?.ctx.canvas;
    canvas?.toBlob((blob) => {
      if (blob) download(blob, pictureName(name));
    });
  }

  return (
    <div className={`plot ${selecting ? "is-selecting" : ""}`}>
      <div
        ref={holder}
        className="plot-canvas"
        tabIndex={0}
        role="application"
        aria-label={
          `${seen.label} over time, ${grouped(seen.lines[0]?.samples ?? 0, 0)} readings. ` +
          "Plus and minus zoom, arrows move."
        }
        onKeyDown={onKeyDown}
        onMouseLeave={() => setHover(null)}
      />
      {box &&
        decisions
          .filter((one) => one.states.state.length > 0)
          .map((one) => <DecisionStrip key={one.name} decision={one} box={box} />)}
      <div className="plot-foot">
        <span className="crosshair" aria-live="off">
          {hover ? (
            <>
              {grouped(hover.t, 2)} s{hover.v !== null && <> · {saidIn(reads, reads.toSi(hover.v))}</>}
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
