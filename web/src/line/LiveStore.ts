import type { Frame, JudgedLine, Trace } from "./frames";

const MOST_LINES = 300;

interface Drawn {
  v: (number | null)[];
  f: number[];
}

/** What a chain gave has times of its own. */
interface Chained extends Drawn {
  t: number[];
  last: string;
}

/** What one page has of a line: the traces of its window. Written by the socket, read when drawing. */
export class LiveStore {
  t: number[] = [];
  raw: Drawn[] = [];
  chained = new Map<number, Chained>();
  newest: [number | null, string][] = [];
  lines: JudgedLine[] = [];
  /** How long the newest sample took from its arrival to the screen, ms; null before the first. */
  delayMs: number | null = null;
  frames = 0;
  skipped = 0;
  private arrivedUs = 0;
  private isDrawn = true;

  take(frame: Frame, windowS: number): void {
    const channels = frame.raw.length;
    if (this.raw.length !== channels) {
      this.t = [];
      this.raw = Array.from({ length: channels }, () => ({ v: [], f: [] }));
      this.chained.clear();
    }
    const now = Math.max(frame.t.at(-1) ?? 0, this.t.at(-1) ?? 0);
    const oldest = now - 1.1 * windowS;
    const [drop, keep] = kept(this.t, oldest, frame.from_s);
    this.t = this.t.slice(drop, keep).concat(frame.t);
    this.raw.forEach((drawn, channel) => splice(drawn, frame.raw[channel], drop, keep, frame.t.length));
    for (const [key, trace] of Object.entries(frame.chained)) {
      const channel = Number(key);
      const drawn = this.chained.get(channel) ?? { t: [], v: [], f: [], last: "ok" };
      const [first, last] = kept(drawn.t, oldest, frame.from_s);
      if (trace.t.length > 0) drawn.last = trace.last;
      drawn.t = drawn.t.slice(first, last).concat(trace.t);
      splice(drawn, trace, first, last, trace.t.length);
      this.chained.set(channel, drawn);
    }
    for (const channel of this.chained.keys()) if (!(String(channel) in frame.chained)) this.chained.delete(channel);
    this.newest = frame.newest;
    this.arrivedUs = frame.arrived_us;
    this.isDrawn = false;
    this.frames += 1;
    this.skipped += frame.skipped;
  }

  /** Lines that waited to be understood come again once they are. */
  takeLines(lines: JudgedLine[]): void {
    this.lines = this.lines
      .filter((one) => one.verdict !== "waiting")
      .concat(lines)
      .slice(-MOST_LINES);
  }

  /** Called when a picture has been drawn. Only a server on this machine has the same clock. */
  drawn(): void {
    if (this.isDrawn) return;
    this.isDrawn = true;
    const delay = Date.now() - this.arrivedUs / 1000;
    if (delay >= -5 && delay < 60_000) this.delayMs = Math.max(0, delay);
  }
}

/** Of rising times, those that stay: not too old, and before what is drawn anew. */
function kept(t: number[], oldest: number, from: number): [number, number] {
  let keep = t.length;
  while (keep > 0 && (t[keep - 1] ?? 0) >= from) keep -= 1;
  let drop = 0;
  while (drop < keep && (t[drop] ?? 0) < oldest) drop += 1;
  return [drop, keep];
}

function splice(drawn: Drawn, trace: Trace | undefined, drop: number, keep: number, count: number): void {
  const values = trace?.v ?? Array.from({ length: count }, () => null);
  const flags = trace && trace.f.length ? trace.f : new Array<number>(count).fill(0);
  drawn.v = drawn.v.slice(drop, keep).concat(values);
  drawn.f = drawn.f.slice(drop, keep).concat(flags);
}
