import { useEffect, useMemo, useRef, useState } from "react";
import { type Take, usePlot, useTakeMarks } from "./queries";
import { HEIGHT, WIDTH, tracePath } from "./tracePath";

const POINTS = 400;
/** A chain over more than this is worked out when the recording is opened, not for its picture in a list. */
const MOST_CHAINED = 200_000;

/** A recording at a glance: its first sensor's channel over time, with its marks. */
export function TraceStrip({ take }: { take: Take }) {
  const place = useRef<HTMLDivElement>(null);
  const [isSeen, setSeen] = useState(false);
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    const watcher = new IntersectionObserver((entries) => {
      if (entries.some((entry) => entry.isIntersecting)) setSeen(true);
    });
    watcher.observe(element);
    return () => watcher.disconnect();
  }, []);
  return (
    <div className="trace-strip" ref={place}>
      {isSeen && take.channels.length > 0 && take.samples > 1 && <Trace take={take} />}
    </div>
  );
}

function Trace({ take }: { take: Take }) {
  const channel = take.channels.find((one) => one.stages.length > 0) ?? take.channels[0];
  const stage = take.samples <= MOST_CHAINED ? (channel?.stages.at(-1) ?? "") : "";
  const plot = usePlot(take.id, channel ? [{ channel: channel.number, stage }] : [], null, POINTS);
  const marks = useTakeMarks(take.id);
  const series = plot.data?.series[0];
  const path = useMemo(() => (series ? tracePath(series, take.duration_s) : ""), [series, take.duration_s]);
  const x = (s: number) => (WIDTH * s) / Math.max(take.duration_s, 1e-9);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" role="img">
      <title>
        {channel?.name} of “{take.name}” over time
        {marks.data?.length ? `, with ${marks.data.length} mark${marks.data.length === 1 ? "" : "s"}` : ""}
      </title>
      {marks.data?.map((mark) => (
        <rect
          key={mark.id}
          className="mark"
          x={x(mark.start_s)}
          width={Math.max(2, x(mark.end_s - mark.start_s))}
          height={HEIGHT}
        />
      ))}
      {take.gaps.map((gap) => (
        <rect
          key={gap.from_s}
          className="gap"
          x={x(gap.from_s)}
          width={Math.max(2, x(gap.to_s - gap.from_s))}
          height={HEIGHT}
        />
      ))}
      <path className="trace" d={path} />
      {series?.flag_s.map((s) => (
        <line key={s} className="flag" x1={x(s)} x2={x(s)} y1={HEIGHT - 5} y2={HEIGHT} />
      ))}
    </svg>
  );
}
