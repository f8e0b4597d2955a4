/** A figure somewhere in a family's description. */
export interface FoundFigure {
  path: (string | number)[];
  title: string;
  value: number;
  source: string;
}

const UNITS: Record<string, string> = { v: "V", a: "A", ohm: "Ω", hz: "Hz", s: "s", f: "F", rad: "rad" };

/** Every figure of a description, in its order, with a readable name. */
export function figuresOf(document: unknown, path: (string | number)[] = [], title = ""): FoundFigure[] {
  if (Array.isArray(document)) {
    return document.flatMap((item: unknown, index) => {
      const name = isRecord(item) && typeof item["name"] === "string" ? item["name"] : String(index + 1);
      return figuresOf(item, [...path, index], [title, name].filter(Boolean).join(" "));
    });
  }
  if (!isRecord(document)) return [];
  if (typeof document["value"] === "number" && typeof document["source"] === "string") {
    return [{ path, title, value: document["value"], source: document["source"] }];
  }
  return Object.entries(document).flatMap(([key, value]) => figuresOf(value, [...path, key], [title, LISTS.has(key) ? "" : words(key)].filter(Boolean).join(" ")));
}

const LISTS = new Set(["pin_classes", "rails", "ports", "leads", "references"]);

export function unitOf(path: (string | number)[]): string {
  const field = path.findLast((part) => typeof part === "string") ?? "";
  if (field === "volts") return "V";
  return UNITS[field.split("_").at(-1) ?? ""] ?? "";
}

function words(key: string): string {
  const parts = key.split("_");
  return (UNITS[parts.at(-1) ?? ""] ? parts.slice(0, -1) : parts).join(" ");
}

/** The same description with one value in another place. */
export function withValue(document: unknown, path: (string | number)[], value: unknown): unknown {
  const [key, ...rest] = path;
  if (key === undefined) return value;
  if (Array.isArray(document)) {
    return document.map((item: unknown, index) => (index === key ? withValue(item, rest, value) : item));
  }
  if (!isRecord(document)) return document;
  return { ...document, [key]: withValue(document[key], rest, value) };
}

export function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
