import { useMemo, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useNavigate, useParams } from "react-router";
import { body, client } from "../api/client";
import { useRig } from "../api/queries";
import { LineTabs } from "../line/LineTabs";
import { jitter, rate } from "../line/words";
import { Shell } from "../shell/Shell";
import { Skeleton, Trouble } from "../shell/States";
import { useDeed } from "../shell/useDeed";
import { useKey } from "../shell/keys";
import { dayAndTime } from "../units/dates";
import { grouped } from "../units/units";
import { ChannelList } from "./ChannelList";
import { ExportMenu } from "./ExportMenu";
import { LinesAside } from "./LinesAside";
import { MarkSpan } from "./MarkSpan";
import { SelectionPanel } from "./SelectionPanel";
import { TakeDetails } from "./TakeDetails";
import { TakePlot } from "./TakePlot";
import { type Take, type Wanted, usePlot, useTake, useTakeMarks } from "./queries";
import { savePicture } from "./savePicture";
import { duration, plotTime, within } from "./words";

const POINTS = 2_000;
const SHOWN_AT_FIRST = 4;

/** One recording: every channel over time, measured and taken apart. */
export default function TakePage() {
  const params = useParams();
  const takeId = Number(params["takeId"]) || -1;
  const take = useTake(takeId);
  const rig = useRig(take.data?.rig_id ?? 0);
  return (
    <Shell rig={rig.data} stage="line">
      {take.isPending && (
        <div className="page">
          <Skeleton lines={9} />
        </div>
      )}
      {take.isError && (
        <div className="page">
          <Trouble error={take.error} retry={() => void take.refetch()} />
        </div>
      )}
      {take.data && <TakeBench key={take.data.id} take={take.data} />}
    </Shell>
  );
}

function TakeBench({ take }: { take: Take }) {
  const [wanted, setWanted] = useState<Wanted[]>(() => take.channels.slice(0, SHOWN_AT_FIRST).map((channel) => ({ channel: channel.number, stage: channel.stages.at(-1) ?? "" })));
  const [hand, setHand] = useState(0);
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
  const inHand = wanted[Math.min(hand, wanted.length - 1)] ?? null;
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
  const restore = (id: number) => body(client.POST("/api/takes/{take_id}/restore", { params: { path: { take_id: id } } }));
  const remove = (id: number) => body(client.DELETE("/api/takes/{take_id}", { params: { path: { take_id: id } } }));

  function trim() {
    if (!span) return;
    void deed(
      () => body(client.POST("/api/takes/{take_id}/trim", { ...path, body: { from_s: span[0], to_s: span[1] } })),
      (made) => `“${made.name}” is what is left; the whole one is put away.`,
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

  const plots = useMemo(() => {
    const series = plot.data?.series ?? [];
    const names = series.map((one) => take.channels[one.channel]?.name ?? "");
    if (!isStacked) return series.length ? [{ series, names }] : [];
    return series.map((one, n) => ({ series: [one], names: [names[n] ?? ""] }));
  }, [plot.data, isStacked, take.channels]);
  const height = isStacked ? Math.max(96, Math.min(430, Math.floor(430 / Math.max(1, plots.length)))) : 430;

  return (
    <div className="bench-page take-page">
      <header className="bench-head">
        <h1>{take.name}</h1>
        <LineTabs rigId={take.rig_id} view="recordings" />
        <div className="page-actions ms-auto">
          <Button size="sm" variant="outline-primary" aria-expanded={open === "details"} onClick={() => setOpen(open === "details" ? null : "details")}>
            Conditions
          </Button>
          <Button size="sm" aria-expanded={open === "export"} onClick={() => setOpen(open === "export" ? null : "export")}>
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
        <span title={take.time_source === "arrival" ? "Standard deviation of the intervals between arrivals" : undefined}>
          {take.time_source === "board" ? "board’s time" : take.time_source === "file" ? "times of the file" : `time of arrival, ${jitter(take.jitter_us)}`}
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
      {open === "details" && <TakeDetails key={`${take.name} ${take.tags.join()}`} take={take} onDone={() => setOpen(null)} />}
      {open === "export" && <ExportMenu take={take} channel={inHand?.channel ?? 0} />}
      {open === "lines" && (
        <section className="panel take-panel bad-lines" aria-label="Lines kept aside">
          <LinesAside of={{ take: take.id }} total={take.bad_lines} />
        </section>
      )}
      {open === "mark" && span && <MarkSpan take={take} span={span} channel={inHand?.channel ?? null} onDone={() => setOpen(null)} />}
      <div className="bench-body line-body">
        <section className="bench" aria-label="Plots">
          <div className="take-bar">
            <span className="crosshair" aria-live="off">
              {hover !== null ? (
                <>
                  {plotTime(hover, shown[1] - shown[0])}
                  {plot.data?.series.map((one, n) => (
                    <span key={n}>
                      {" · "}
                      {nameOf(one.channel)} {within(nearest(one.time_s, one.low, hover), spanOf(one.low) / 200)} {one.unit}
                    </span>
                  ))}
                </>
              ) : (
                "wheel zooms, drag moves, Shift and drag selects"
              )}
            </span>
            <span className="plot-buttons">
              <Button size="sm" variant={isSelecting ? "primary" : "outline-primary"} aria-pressed={isSelecting} onClick={() => setSelecting(!isSelecting)}>
                Select
              </Button>
              <Button size="sm" variant="outline-primary" onClick={() => setStacked(!isStacked)}>
                {isStacked ? "Overlay" : "Stack"}
              </Button>
              <Button size="sm" variant="outline-primary" disabled={!window} onClick={() => setWindow(null)}>
                All
              </Button>
              <Button size="sm" variant="outline-primary" onClick={() => picture.current && savePicture(picture.current, take.name)}>
                PNG
              </Button>
            </span>
          </div>
          {plot.isError && <Trouble error={plot.error} retry={() => void plot.refetch()} />}
          <div className="plot take-plots" ref={picture}>
            {plots.map((plotted, n) => (
              <div key={plotted.series.map((one) => `${one.channel}${one.stage}`).join("+")} className="take-plot-row">
                <span className="take-plot-name">{plotted.names.map((name, k) => (plotted.series[k]?.stage ? `${name}, ${plotted.series[k].stage}` : name)).join(" · ")}</span>
                <TakePlot
                  plotted={plotted}
                  shown={shown}
                  full={full}
                  selection={span}
                  marks={(marks.data ?? []).filter((mark) => mark.channel === null || plotted.series.some((one) => one.channel === mark.channel))}
                  gaps={take.gaps}
                  isSelecting={isSelecting}
                  height={height}
                  hasTimes={n === plots.length - 1}
                  onWindow={move}
                  onSelect={setSpan}
                  onHover={setHover}
                  label={`${plotted.names.join(", ")} over time`}
                />
              </div>
            ))}
            {plot.isPending && <Skeleton lines={8} />}
            {wanted.length === 0 && <p className="bench-note">Choose a channel on the right.</p>}
          </div>
          {span && (
            <div className="take-bar">
              <span className="quiet">From A to B</span>
              <span className="plot-buttons">
                <Button size="sm" variant="outline-primary" onClick={() => setOpen("mark")}>
                  Mark it <kbd>M</kbd>
                </Button>
                <Button size="sm" variant="outline-primary" onClick={() => move(span)}>
                  Zoom to it
                </Button>
                <Button size="sm" variant="outline-primary" onClick={trim}>
                  Trim to it
                </Button>
                <Button size="sm" variant="outline-primary" onClick={split}>
                  Split at A
                </Button>
                <Button size="sm" variant="outline-primary" onClick={() => setSpan(null)}>
                  Clear <kbd>Esc</kbd>
                </Button>
              </span>
            </div>
          )}
        </section>
        <aside className="line-side">
          <ChannelList take={take} wanted={wanted} hand={inHand} onChange={setWanted} onHand={(channel) => setHand(Math.max(0, wanted.findIndex((one) => one.channel === channel)))} />
          <SelectionPanel takeId={take.id} wanted={inHand} name={inHand ? nameOf(inHand.channel) : ""} isPulse={take.channels[inHand?.channel ?? 0]?.quantity.startsWith("pulse") ?? false} span={span} />
        </aside>
      </div>
      {take.channels.some((channel) => channel.recording_id !== null) && (
        <p className="take-benches">
          On the benches:{" "}
          {take.channels
            .filter((channel) => channel.recording_id !== null)
            .map((channel) => (
              <Link key={channel.number} to={`/sensors/${channel.sensor_id}/calibrated?recording=${channel.recording_id}`}>
                {channel.sensor_name}
              </Link>
            ))}
        </p>
      )}
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
