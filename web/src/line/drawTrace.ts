interface Trace {
  t: number[];
  v: (number | null)[];
  f: number[];
  /** Samples before this are not drawn, s. */
  from: number;
  /** A longer pause than this breaks the line, s. */
  longestPause: number;
  x: (at: number) => number;
  y: (value: number) => number;
}

const THICKNESS = 1.5;
/** Points to a device pixel above which slanted strokes cost time and show no more than upright bars. */
const DENSE = 1.9;

/** Draws one trace in the context's stroke colour: as a line, or as bars where points crowd. */
export function drawTrace(c: CanvasRenderingContext2D, trace: Trace, width: number, ratio: number): void {
  if (trace.t.length > DENSE * width * ratio) drawBars(c, trace, ratio);
  else strokeLine(c, trace);
}

/** Calls `visit` with each sample's place, and whether the line breaks before it. */
function walk(trace: Trace, visit: (x: number, y: number, isBroken: boolean) => void): void {
  const { t, v, f, from, longestPause, x, y } = trace;
  let isBroken = true;
  for (let n = 0; n < t.length; n++) {
    const value = v[n];
    const at = t[n] ?? 0;
    if (value == null) {
      // A flagged sample breaks the line; one that was thinned away does not.
      if ((f[n] ?? 0) !== 0) isBroken = true;
      continue;
    }
    if (at < from) continue;
    if (at - (t[n - 1] ?? at) > longestPause) isBroken = true;
    visit(x(at), y(value), isBroken);
    isBroken = false;
  }
}

function strokeLine(c: CanvasRenderingContext2D, trace: Trace): void {
  c.lineWidth = THICKNESS;
  c.lineJoin = "round";
  c.beginPath();
  walk(trace, (x, y, isBroken) => {
    if (isBroken) c.moveTo(x, y);
    else c.lineTo(x, y);
  });
  c.stroke();
}

/** One upright bar for each column of device pixels, from the lowest to the highest value there. */
function drawBars(c: CanvasRenderingContext2D, trace: Trace, ratio: number): void {
  c.save();
  c.setTransform(1, 0, 0, 1, 0, 0);
  c.fillStyle = c.strokeStyle;
  const thickness = Math.max(1, Math.round(THICKNESS * ratio));
  let column = -Infinity;
  let top = 0;
  let bottom = 0;
  let last = 0;
  const bar = () => {
    if (column > -Infinity) c.fillRect(column, top, 1, bottom - top + thickness);
  };
  walk(trace, (x, y, isBroken) => {
    const here = Math.floor(x * ratio);
    const height = Math.round(y * ratio - thickness / 2);
    if (here !== column) {
      bar();
      // A bar begins where the one before it ended, as a line would.
      const before = isBroken ? height : last;
      if (!isBroken && here > column + 1) c.fillRect(column + 1, last, here - column - 1, thickness);
      column = here;
      top = Math.min(before, height);
      bottom = Math.max(before, height);
    } else {
      top = Math.min(top, height);
      bottom = Math.max(bottom, height);
    }
    last = height;
  });
  bar();
  c.restore();
}
