import type { Point } from "./geometry";

/** A soft line through the points of a run: a thread hangs, it has no corners. */
export function softLine(points: Point[]): string {
  const [first, ...rest] = points;
  if (!first || rest.length === 0) return "";
  let path = `M ${first.x} ${first.y}`;
  for (let index = 0; index < rest.length; index++) {
    const here = rest[index] as Point;
    const before = index === 0 ? first : (rest[index - 1] as Point);
    const next = rest[index + 1];
    if (!next) {
      path += ` L ${here.x} ${here.y}`;
      continue;
    }
    const near = Math.min(26, length(before, here) / 2);
    const far = Math.min(26, length(here, next) / 2);
    const start = towards(here, before, near);
    const end = towards(here, next, far);
    path += ` L ${start.x} ${start.y} C ${here.x} ${here.y} ${here.x} ${here.y} ${end.x} ${end.y}`;
  }
  return path;
}

/** How long a run is, along it. */
export function lengthOf(points: Point[]): number {
  return points.slice(1).reduce((sum, point, index) => sum + length(points[index] as Point, point), 0);
}

/** The middle of a run, along it. */
export function middleOf(points: Point[]): Point {
  let left = lengthOf(points) / 2;
  for (let index = 1; index < points.length; index++) {
    const from = points[index - 1] as Point;
    const to = points[index] as Point;
    const step = length(from, to);
    if (step >= left) return towards(from, to, left);
    left -= step;
  }
  return points.at(-1) ?? { x: 0, y: 0 };
}

function length(a: Point, b: Point): number {
  return Math.hypot(a.x - b.x, a.y - b.y);
}

function towards(from: Point, to: Point, distance: number): Point {
  const all = length(from, to) || 1;
  return { x: from.x + ((to.x - from.x) * distance) / all, y: from.y + ((to.y - from.y) * distance) / all };
}
