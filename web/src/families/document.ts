/** A family's description as it stands in its file. */
export type Document = Record<string, unknown>;
export type Path = (string | number)[];

export function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** What stands at a place; undefined when there is nothing. */
export function valueAt(document: unknown, path: Path): unknown {
  return path.reduce<unknown>((at, key) => {
    if (Array.isArray(at)) return typeof key === "number" ? (at as unknown[])[key] : undefined;
    return isRecord(at) ? at[key] : undefined;
  }, document);
}

/** The same description with one value in another place; `undefined` takes the place out. */
export function withValue(document: unknown, path: Path, value: unknown): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return value;
  if (Array.isArray(document)) {
    return document.map((item: unknown, index) => (index === key ? withValue(item, rest, value) : item));
  }
  const { [key]: old, ...others } = isRecord(document) ? document : {};
  const next = withValue(old, rest, value);
  if (next === undefined) return others;
  // The order of a file's fields is kept: it is read by people.
  return isRecord(document) && key in document ? { ...document, [key]: next } : { ...others, [key]: next };
}

/** The records of a list such as pins or leads. */
export function recordsAt(document: unknown, key: string): Record<string, unknown>[] {
  const list = valueAt(document, [key]);
  return Array.isArray(list) ? list.filter(isRecord) : [];
}

export function textAt(document: unknown, path: Path): string {
  const value = valueAt(document, path);
  return typeof value === "string" ? value : "";
}

/** Whether a place lies in a part, or is it. */
export function isWithin(path: Path, part: Path): boolean {
  return part.every((key, index) => path[index] === key);
}
