import { describe, expect, it } from "vitest";
import { LiveStore } from "./LiveStore";
import type { Frame } from "./frames";

interface Reading {
  t: number;
  v: number;
}

const readings: Reading[] = Array.from({ length: 600 }, (_, n) => ({ t: n / 25, v: Math.sin(n / 9) }));

/** The picture of what came between two times, as the server sends it. */
function frameOf(from: number, to: number, all: Reading[] = readings): Frame {
  const now = all.filter((one) => one.t >= from && one.t < to);
  const trace = { v: now.map((one) => one.v), f: [] };
  return {
    from_s: from,
    t: now.map((one) => one.t),
    raw: [trace],
    chained: { 0: { ...trace, t: now.map((one) => one.t), last: "ok" } },
    newest: [[now.at(-1)?.v ?? null, "ok"]],
    arrived_us: 0,
    samples: now.length,
    skipped: 0,
  };
}

/** The same stretches at every run: some overlap what was drawn before, as the last bucket does. */
function stretches(seed: number): [number, number][] {
  let state = seed;
  const next = () => (state = (state * 48271) % 2147483647) / 2147483647;
  const found: [number, number][] = [];
  for (let at = 0; at < 20;) {
    const to = at + 0.05 + next();
    found.push([Math.max(0, at - next() * 0.3), to]);
    at = to;
  }
  return found;
}

describe("what a page has of a line", () => {
  it.each([1, 7, 42, 1234])("is what was read, once each and in order, however pictures overlap (%i)", (seed) => {
    const store = new LiveStore();
    let end = 0;
    for (const [from, to] of stretches(seed)) {
      store.take(frameOf(from, to), 1_000);
      end = to;
    }
    const expected = readings.filter((one) => one.t < end);
    expect(store.t).toEqual(expected.map((one) => one.t));
    expect(store.raw[0]?.v).toEqual(expected.map((one) => one.v));
    expect(store.raw[0]?.f).toEqual(expected.map(() => 0));
    expect(store.chained.get(0)?.t).toEqual(store.t);
    expect(store.chained.get(0)?.v).toEqual(store.raw[0]?.v);
  });

  it("holds its window and a little more, not all that ever came", () => {
    const store = new LiveStore();
    for (const [from, to] of stretches(3)) store.take(frameOf(from, to), 2);
    const [first = 0, last = 0] = [store.t[0], store.t.at(-1)];
    expect(last - first).toBeGreaterThan(1.9);
    expect(last - first).toBeLessThan(2.2 + 1.4);
    expect(store.raw[0]?.v).toHaveLength(store.t.length);
  });

  it("begins anew when the line has other channels", () => {
    const store = new LiveStore();
    store.take(frameOf(0, 5), 10);
    const two = frameOf(5, 6);
    store.take({ ...two, raw: [...two.raw, ...two.raw], chained: {} }, 10);
    expect(store.t[0]).toBe(5);
    expect(store.raw).toHaveLength(2);
    expect(store.raw[1]?.v).toEqual(store.raw[0]?.v);
    expect(store.chained.size).toBe(0);
  });

  it("holds as many values as times, though channels go and come", () => {
    const store = new LiveStore();
    store.take(frameOf(0, 1), 10);
    store.take({ ...frameOf(1, 2), raw: [] }, 10);
    expect(store.raw).toEqual([]);
    store.take(frameOf(2, 3), 10);
    expect(store.raw[0]?.v).toHaveLength(store.t.length);
  });

  it("keeps what a chain said last while it says nothing new", () => {
    const store = new LiveStore();
    store.take({ ...frameOf(0, 1), chained: { 0: { t: [0.5], v: [null], f: [3], last: "no_echo" } } }, 10);
    store.take({ ...frameOf(1, 2), chained: { 0: { t: [], v: [], f: [], last: "ok" } } }, 10);
    expect(store.chained.get(0)?.last).toBe("no_echo");
  });

  it("replaces lines that waited, and keeps the last few hundred", () => {
    const store = new LiveStore();
    const line = (number: number, verdict: string) => ({ number, text: "", verdict, reason: "", at_s: 0 });
    store.takeLines([line(1, "read"), line(2, "waiting")]);
    store.takeLines([line(2, "read"), line(3, "waiting")]);
    expect(store.lines.map((one) => [one.number, one.verdict])).toEqual([
      [1, "read"],
      [2, "read"],
      [3, "waiting"],
    ]);
    store.takeLines(Array.from({ length: 900 }, (_, n) => line(n + 3, "read")));
    expect(store.lines).toHaveLength(300);
    expect(store.lines.at(-1)?.number).toBe(902);
  });

  it("tells the delay of each picture once, and none that a clock elsewhere made up", () => {
    const store = new LiveStore();
    store.take({ ...frameOf(0, 1), arrived_us: (Date.now() - 40) * 1000 }, 10);
    store.drawn();
    const told = store.delayMs;
    expect(told).toBeGreaterThanOrEqual(39);
    expect(told).toBeLessThan(5_000);
    store.drawn();
    expect(store.delayMs).toBe(told);
    store.take({ ...frameOf(1, 2), arrived_us: (Date.now() + 90_000) * 1000 }, 10);
    store.drawn();
    expect(store.delayMs).toBe(told);
  });
});
