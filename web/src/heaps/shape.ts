import type { Schemas } from "../api/client";

type Heap = Schemas["HeapOut"];
type LaneHeaps = Schemas["LaneHeapsOut"];

/** The span of values that is drawn, and how many bins it is cut into. */
export interface Axis {
  low: number;
  high: number;
}

const BINS = 180;
const CONVERTERS = [255, 1023, 4095, 16_383, 65_535];

/** All of a converter where the heaps are counts of one; otherwise what they take up, with room. */
export function axisOf(lanes: LaneHeaps[]): Axis {
  const heaps = lanes.flatMap((lane) => [lane.dark, lane.light, ...lane.others]).filter((heap) => heap.n > 0);
  const values = heaps.flatMap((heap) => [heap.values[0] ?? 0, heap.values.at(-1) ?? 0]);
  const [least, most] = [Math.min(...values), Math.max(...values)];
  if (values.length === 0) return { low: 0, high: 1 };
  const top = CONVERTERS.find((one) => most <= one);
  const isWhole = heaps.every((heap) => heap.values.every(Number.isInteger));
  if (isWhole && most > 1 && least >= 0 && top) return { low: 0, high: top };
  const room = 0.08 * (most - least || 1);
  return { low: least - room, high: most + room };
}

/** How many decimals a value on an axis is worth: a hundredth of what it spans, and whole counts. */
export function decimalsOf({ low, high }: Axis): number {
  return high - low >= 100 ? 0 : Math.max(0, 2 - Math.floor(Math.log10(high - low)));
}

/** Round values along an axis, five or so. */
export function ticksOf({ low, high }: Axis): number[] {
  const full = CONVERTERS.find((one) => one === high);
  if (full) return [0, 1, 2, 3, 4].map((n) => Math.round((n / 4) * (full + 1)) - (n === 4 ? 1 : 0));
  const raw = (high - low) / 4;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= raw) ?? raw;
  const first = Math.ceil(low / step) * step;
  return Array.from({ length: Math.floor((high - first) / step) + 1 }, (_, n) => first + n * step);
}

/** A heap sideways: as wide as the share of its samples there, the widest bin as wide as there is room. */
export function outline(heap: Heap, axis: Axis, y: (value: number) => number, x: number, room: number): string {
  const width = (axis.high - axis.low) / BINS;
  const bins = new Map<number, number>();
  heap.values.forEach((value, n) => {
    const bin = Math.floor((value - axis.low) / width);
    bins.set(bin, (bins.get(bin) ?? 0) + (heap.counts[n] ?? 0));
  });
  const places = [...bins.keys()].sort((a, b) => a - b);
  const most = Math.max(...bins.values());
  const first = places[0] ?? 0;
  const last = places.at(-1) ?? 0;
  let path = `M ${x} ${y(axis.low + first * width)}`;
  for (let bin = first; bin <= last; bin++) {
    const out = x + ((bins.get(bin) ?? 0) / most) * room;
    path += ` L ${out} ${y(axis.low + bin * width)} L ${out} ${y(axis.low + (bin + 1) * width)}`;
  }
  return `${path} L ${x} ${y(axis.low + (last + 1) * width)} Z`;
}

/** How many samples of two heaps a threshold takes for the other. */
export function misreadBy(dark: Heap, light: Heap, at: number): number {
  const above = (heap: Heap) =>
    heap.values.reduce((sum, value, n) => (value > at ? sum + (heap.counts[n] ?? 0) : sum), 0);
  const darkIsHigh = (dark.mean ?? 0) > (light.mean ?? 0);
  return darkIsHigh ? dark.n - above(dark) + above(light) : above(dark) + light.n - above(light);
}
