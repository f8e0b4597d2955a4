import { type Path, isRecord, isWithin } from "./document";
import { fieldTitle, itemTitle } from "./figures";

/** The published JSON Schema of a kind of family. */
export type Schema = Record<string, unknown>;

export interface FigurePlace {
  path: Path;
  /** Its name within the part asked for. */
  title: string;
  isThere: boolean;
}

const FIGURE = "#/$defs/Figure";

/** The places within a part of a description that may hold a figure or none, by the schema. */
export function optionalFigures(schema: Schema, document: unknown, part: Path): FigurePlace[] {
  return walk(schema, document, [], "");

  function walk(node: unknown, value: unknown, path: Path, title: string): FigurePlace[] {
    const shape = resolved(schema, node);
    const named = path.length === part.length && isWithin(path, part) ? "" : title;
    if (Array.isArray(value)) {
      return value.flatMap((item: unknown, index) =>
        walk(shape["items"], item, [...path, index], itemTitle(named, item, index)),
      );
    }
    if (!isRecord(value) || !isRecord(shape["properties"])) return [];
    return Object.entries(shape["properties"]).flatMap(([key, child]) => {
      const here = [...path, key];
      const name = fieldTitle(named, key);
      if (!mayBeFigureOrNone(child)) return walk(child, value[key], here, name);
      return isWithin(here, part) ? [{ path: here, title: name, isThere: isRecord(value[key]) }] : [];
    });
  }
}

function mayBeFigureOrNone(node: unknown): boolean {
  return isRecord(node) && choices(node).length > 1 && choices(node).some((one) => one["$ref"] === FIGURE);
}

function choices(node: Record<string, unknown>): Record<string, unknown>[] {
  return Array.isArray(node["anyOf"]) ? node["anyOf"].filter(isRecord) : [node];
}

/** What a node says, its reference followed; of a choice the one that is not null. */
function resolved(schema: Schema, node: unknown): Record<string, unknown> {
  if (!isRecord(node)) return {};
  const one = choices(node).find((choice) => choice["type"] !== "null") ?? {};
  const reference = one["$ref"];
  if (typeof reference !== "string") return one;
  const definitions = schema["$defs"];
  const found = isRecord(definitions) ? definitions[reference.split("/").at(-1) ?? ""] : undefined;
  return isRecord(found) ? found : {};
}
