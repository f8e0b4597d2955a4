import { useMemo, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate, useParams } from "react-router";
import { body, client } from "../api/client";
import { type Rig, useRig } from "../api/queries";
import { LineTabs } from "../line/LineTabs";
import { jitter, rate } from "../line/words";
import { Over } from "../shell/Over";
import { Skeleton, Trouble } from "../shell/States";
import { useDeed } from "../shell/useDeed";
import { useKey } from "../shell/keys";
import { dayAndTime } from "../units/dates";
import { grouped } from "../units/units";
import { ExportMenu } from "./ExportMenu";
import { LinesAside } from "./LinesAside";
import { MarkList } from "./MarkList";
import { MarkSpan } from "./MarkSpan";
import { SelectionPanel } from "./SelectionPanel";
import { SelectionSays } from "./SelectionSays";
import { SelectionTools } from "./SelectionTools";
import { TakeDetails } from "./TakeDetails";
import { TakePlot } from "./TakePlot";
import { TraceHead } from "./TraceHead";
import { type ChannelGroup, channelGroups } from "./channelGroups";
import { type Series, type Take, type Wanted, usePlot, useTake, useTakeMarks } from "./queries";
import { savePicture } from "./savePicture";
import { duration, plotTime, within } from "./words";

const POINTS = 2_000;
const SHOWN_AT_FIRST = 4;

/** One recording: every channel over time, measured and taken apart. */
export default function TakePage() {
  const params = useParams();
  const takeId = Number(params["takeId"]);
  const take = useTake(takeId);
  const rig = useRig(take.data?.rig_id ?? 0);
  return (
    <>
      {(take.isPending || (take.data && rig.isPending)) && (
        <div className="page">
          <Skeleton lines={9} />
        </div>
      )}
      {take.isError && (
        <div className="page">
          <Trouble error={take.error} retry={() => void take.refetch()} />
        </div>
      )}
      {take.data && !rig.isPending && <TakeBench key={take.data.id} take={take.data} rig={rig.data} />}
    </>
  );
}

function TakeBench({ take, rig }: { take: Take; rig: Rig | undefined }) {
  const [wanted, setWanted] = useState<Wanted[]>(() =>
    take.channels
      .slice(0, SHOWN_AT_FIRST)
      .map((channel) => ({ channel: channel.number, stage: channel.stages.at(-1) ?? "" })),
  );
  const [hand, setHand] = useState<number | null>(null);
  const [isStacked, setStacked] = useState(true);
  const [isSelecting, setSelecting] = useState(false);
  const [window, setWindow] = useState<[number, number] | null>(null);
  const [span, setSpan] = useState<[number, number] | null>(null);
  const [hover, setHover] = useState<number | null>(null);
  const [open, setOpen] = useState<"details" | "export" | "lines" | "mark" | null>(null);
  const picture = useRef<HTMLDivElement>(null);
  const marks = useTakeMarks(take.id);
  const plot = usePlot(take.id, wanted, window, POINTS);
  const deed = useDeed();
  const navigate = useNavigate();
  const full: [number, number] = [0, Math.max(take.duration_s, 1e-6)];
  const shown = window ?? full;
  const isPulse = (channel: number) => take.channels[channel]?.quantity.startsWith("pulse") ?? false;
  const inHand = wanted.find((one) => one.channel === hand) ?? wanted[0] ?? null;
  const nameOf = (channel: number) => take.channels[channel]?.name ?? "";
  useKey("Escape", span ? () => setSpan(null) : null);
  useKey("m", span ? () => setOpen("mark") : null);

  function move(next: [number, number] | null) {
    if (!next) return setWindow(null);
    const width = Math.min(next[1] - next[0], full[1]);
    const start = Math.min(Math.max(0, next[0]), full[1] - width);
    setWindow(width >= full[1] ? null : [start, start + width]);
  }

  const path = { params: { path: { take_id: take.id } } };
  const restore = (id: number) =>
    body(client.POST("/api/takes/{take_id}/restore", { params: { path: { take_id: id } } }));
  const remove = (id: number) => body(client.DELETE("/api/takes/{take_id}", { params: { path: { take_id: id } } }));

  function trim() {
    if (!span) return;
    void deed(
      () => body(client.POST("/api/takes/{take_id}/trim", { ...path, body: { from_s: span[0], to_s: span[1] } })),
      (made) => `“${made.name}” is what is left; the whole one is removed.`,
      async (made) => {
        await restore(take.id);
        await remove(made.id);
        await navigate(`/rigs/${take.rig_id}/recordings/${take.id}`);
      },
      (made) => navigate(`/rigs/${take.rig_id}/recordings/${made.id}`),
    );
  }

  function split() {
    if (!span) return;
    void deed(
      () => body(client.POST("/api/takes/{take_id}/split", { ...path, body: { at_s: span[0] } })),
      `“${take.name}” is split in two.`,
      async (made) => {
        await restore(take.id);
        for (const part of made) await remove(part.id);
      },
      () => navigate(`/rigs/${take.rig_id}/recordings`),
    );
  }

  const groups = useMemo(() => channelGroups(take, rig), [take, rig]);
  const series = plot.data?.series ?? [];
  const height = isStacked ? Math.max(96, Math.min(430, Math.floor(430 / Math.max(1, series.length)))) : 430;
  const lastDrawn = groups.flatMap((group) => seriesOf(group)).at(-1);

  function seriesOf(group: ChannelGroup): Series[] {
    return group.channels.flatMap((channel) => series.filter((one) => one.channel === channel.number));
  }
  function drawn(channel: number, stage: string) {
    const rest = wanted.filter((one) => one.channel !== channel);
    setWanted([...rest, { channel, stage }].sort((one, other) => one.channel - other.channel));
  }
  function plotOf(shownSeries: Series[], hasTimes: boolean) {
    const names = shownSeries.map((one) => nameOf(one.channel));
    return (
      <div key={shownSeries.map((one) => `${one.channel}${one.stage}`).join("+")} className="take-plot-row">
        <span className="take-plot-name">
          {names
            .map((name, n) => (shownSeries[n]?.stage ? `${name}, ${shownSeries[n].stage.replaceAll("_", " ")}` : name))
            .join(" · ")}
        </span>
        <TakePlot
          plotted={{ series: shownSeries, names }}
          shown={shown}
          full={full}
          selection={span}
          marks={(marks.data ?? []).filter(
            (mark) => mark.channel === null || shownSeries.some((one) => one.channel === mark.channel),
          )}
          gaps={take.gaps}
          isSelecting={isSelecting}
          height={height}
          hasTimes={hasTimes}
          onWindow={move}
          onSelect={setSpan}
          onHover={setHover}
          label={`${names.join(", ")} over time`}
        />
      </div>
    );
  }

  return (
    <div className="bench-page take-page">
      <header className="bench-head">
        <h1>{take.name}</h1>
        <LineTabs rigId={take.rig_id} view="recordings" />
        <div className="page-actions ms-auto">
          <Button
            size="sm"
            variant="outline-primary"
            aria-expanded={open === "details"}
            onClick={() => setOpen(open === "details" ? null : "details")}
          >
            Conditions
          </Button>
          <Button
            size="sm"
            aria-expanded={open === "export"}
            onClick={() => setOpen(open === "export" ? null : "export")}
          >
            Take it away
          </Button>
        </div>
      </header>
      <p className="figures take-figures">
        <span>{dayAndTime(take.recorded_at)}</span>
        <span>
          <b>{duration(take.duration_s)}</b>
        </span>
        <span>
          <b>{grouped(take.samples, 0)}</b> samples, <b>{rate(take.rate_hz)}</b> a second
        </span>
        <span
          title={take.time_source === "arrival" ? "Standard deviation of the intervals between arrivals" : undefined}
        >
          {take.time_source === "board"
            ? "board’s time"
            : take.time_source === "file"
              ? "times of the file"
              : `time of arrival, ${jitter(take.jitter_us)}`}
        </span>
        {take.gaps.length > 0 && (
          <span className="is-bad">
            {take.gaps.length} gap{take.gaps.length === 1 ? "" : "s"}: {take.gaps[0]?.why}
          </span>
        )}
        {take.state === "cut" && <span className="is-bad">cut: Tick Stone ended before it was stopped</span>}
        {take.bad_lines > 0 && (
          <button type="button" className="link" onClick={() => setOpen(open === "lines" ? null : "lines")}>
            {grouped(take.bad_lines, 0)} line{take.bad_lines === 1 ? "" : "s"} kept aside
          </button>
        )}
      </p>
      <Over>
        {open === "details" && (
          <TakeDetails key={`${take.name} ${take.tags.join()}`} take={take} onDone={() => setOpen(null)} />
        )}
        {open === "export" && <ExportMenu take={take} channel={inHand?.channel ?? 0} wanted={wanted} window={window} />}
        {open === "lines" && (
          <section className="panel bad-lines" aria-label="Lines kept aside">
            <LinesAside of={{ take: take.id }} total={take.bad_lines} />
          </section>
        )}
        {open === "mark" && span && (
          <MarkSpan take={take} span={span} channel={inHand?.channel ?? null} onDone={() => setOpen(null)} />
        )}
      </Over>
      <div className="bench-body line-body">
        <section className="bench" aria-label="Plots">
          <div className="take-bar">
            <SelectionSays
              takeId={take.id}
              wanted={inHand}
              name={inHand ? nameOf(inHand.channel) : ""}
              isPulse={inHand !== null && isPulse(inHand.channel)}
              span={span}
            />
            <span className="plot-buttons">
              <Button
                size="sm"
                variant={isSelecting ? "primary" : "outline-primary"}
                aria-pressed={isSelecting}
                onClick={() => setSelecting(!isSelecting)}
              >
                Select
              </Button>
              <Button size="sm" variant="outline-primary" onClick={() => setStacked(!isStacked)}>
                {isStacked ? "Overlay" : "Stack"}
              </Button>
              <Button size="sm" variant="outline-primary" disabled={!window} onClick={() => setWindow(null)}>
                All
              </Button>
              <Button
                size="sm"
                variant="outline-primary"
                onClick={() => picture.current && savePicture(picture.current, take.name)}
              >
                PNG
              </Button>
            </span>
          </div>
          {plot.isError && <Trouble error={plot.error} retry={() => void plot.refetch()} />}
          <div className="take-bar">
            <span className="crosshair" aria-live="off">
              {hover !== null ? (
                <>
                  {plotTime(hover, shown[1] - shown[0])}
                  {plot.data?.series.map((one, n) => (
                    <span key={n}>
                      {" · "}
                      {nameOf(one.channel)} {within(nearest(one.time_s, one.low, hover), spanOf(one.low) / 200)}{" "}
                      {one.unit}
                    </span>
                  ))}
                </>
              ) : (
                "wheel zooms, drag moves"
              )}
            </span>
            <SelectionTools
              isOn={span !== null}
              onMark={() => setOpen("mark")}
              onZoom={() => move(span)}
              onTrim={trim}
              onSplit={split}
              onClear={() => setSpan(null)}
            />
          </div>
          <div className="take-plots" ref={picture}>
            {groups.map((group) => (
              <section key={group.sensor?.id ?? group.name} className="plot" aria-label={group.name || "of no sensor"}>
                <TraceHead
                  group={group}
                  wanted={wanted}
                  hand={inHand?.channel ?? null}
                  onDraw={drawn}
                  onHide={(channel) => setWanted(wanted.filter((one) => one.channel !== channel))}
                  onHand={setHand}
                />
                {isStacked && seriesOf(group).map((one) => plotOf([one], one === lastDrawn))}
              </section>
            ))}
            {!isStacked && series.length > 0 && <div className="plot">{plotOf(series, true)}</div>}
            {plot.isPending && wanted.length > 0 && <Skeleton lines={8} />}
          </div>
        </section>
        <aside className="line-side">
          <MarkList
            take={take}
            marks={marks.data ?? []}
            onSpan={(mark) => {
              setSpan([mark.start_s, mark.end_s]);
              if (mark.channel !== null) setHand(mark.channel);
            }}
          />
          <SelectionPanel
            takeId={take.id}
            wanted={inHand}
            name={inHand ? nameOf(inHand.channel) : ""}
            isPulse={inHand !== null && isPulse(inHand.channel)}
            span={span}
          />
        </aside>
      </div>
    </div>
  );
}

function spanOf(values: (number | null)[]): number {
  let low = Infinity;
  let high = -Infinity;
  for (const value of values) {
    if (value === null) continue;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  return high > low ? high - low : 0;
}

function nearest(times: number[], values: (number | null)[], at: number): number | null {
  let low = 0;
  let high = times.length - 1;
  if (high < 0) return null;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if ((times[middle] ?? 0) <= at) low = middle;
    else high = middle;
  }
  const n = Math.abs((times[low] ?? 0) - at) <= Math.abs((times[high] ?? 0) - at) ? low : high;
  return values[n] ?? null;
}
