import { useEffect, useMemo, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { usePreferences } from "../shell/preferences";
import { pointsOf } from "../plot/data";
import { attach } from "./gestures";
import type { Plotted, TakePlotProps } from "./props";
import { type Ink, inkNow, takeOptions } from "./takeOptions";

/** One plot of one or more channels; cursors of all plots on a page are linked. */
export function TakePlot(props: TakePlotProps) {
  const { plotted, height, isSelecting, hasTimes, label } = props;
  const holder = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef(props);
  const [{ theme }] = usePreferences();
  useEffect(() => {
    latest.current = props;
  });
  const data = useMemo(() => aligned(plotted), [plotted]);
  const kind = plotted.series.map((one) => `${one.channel}${one.stage}${one.unit}`).join("|");

  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const ink: Ink = inkNow(element);
    const made = new uPlot(takeOptions(element.clientWidth, height, ink, latest, hasTimes), data, element);
    plot.current = made;
    const detach = attach(made, latest);
    const watcher = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }));
    watcher.observe(element);
    return () => {
      watcher.disconnect();
      detach();
      made.destroy();
      plot.current = null;
    };
    // Built anew only when its looks or channels change; data come below.
  }, [theme, height, kind, isSelecting, hasTimes]); // eslint-disable-line react-hooks/exhaustive-deps

  const [from, to] = props.shown;
  useEffect(() => {
    plot.current?.setData(data, false);
    plot.current?.setScale("x", { min: from, max: to });
  }, [data, from, to, props.selection, props.marks]);

  function onKeyDown(event: React.KeyboardEvent) {
    const span = to - from;
    const actions: Record<string, () => void> = {
      "+": () => zoom(0.5),
      "=": () => zoom(0.5),
      "-": () => zoom(2),
      "0": () => props.onWindow(null),
      ArrowLeft: () => shift(-0.2 * span),
      ArrowRight: () => shift(0.2 * span),
    };
    const action = actions[event.key];
    if (!action || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    action();
  }
  function zoom(factor: number) {
    const middle = (from + to) / 2;
    const half = ((to - from) * factor) / 2;
    props.onWindow([middle - half, middle + half]);
  }
  function shift(by: number) {
    props.onWindow([from + by, to + by]);
  }

  return (
    <div
      ref={holder}
      className={`plot-canvas take-plot ${isSelecting ? "is-selecting" : ""}`}
      tabIndex={0}
      role="application"
      aria-label={`${label}. Plus and minus zoom, arrows move, 0 shows all.`}
      onKeyDown={onKeyDown}
      onMouseLeave={() => props.onHover(null)}
    />
  );
}

/** All series on one rising axis of times; low and high of a thinned point follow each other. */
function aligned({ series }: Plotted): uPlot.AlignedData {
  const one = series.map(pointsOf);
  const [first] = one;
  if (!first) return [[]];
  if (one.length === 1) return [first.t, first.v];
  return uPlot.join(one.map(({ t, v }) => [t, v] as uPlot.AlignedData));
}
