import { ABILITIES } from "./abilities";
import { isRecord } from "./document";
import { type FoundFigure, figuresOf, shownUnit } from "./figures";
import { ROLES } from "./leadRoles";
import type { Family } from "./queries";

/** What is known of a family: pins or leads, and every figure with its source. */
export function FamilyFacts({ family }: { family: Family }) {
  const parts = family.document[family.kind === "board" ? "pins" : "leads"];
  const rows = Array.isArray(parts) ? parts.filter(isRecord) : [];
  const figures = figuresOf(family.document);
  return (
    <>
      <div className="family-table" tabIndex={0} role="region" aria-label={family.kind === "board" ? "Pins" : "Leads"}>
        <table>
          <thead>
            <tr>
              <th scope="col">{family.kind === "board" ? "pin" : "lead"}</th>
              <th scope="col">{family.kind === "board" ? "can" : "is"}</th>
              <th scope="col">{family.kind === "board" ? "mind" : "printed as"}</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={String(row["name"])}>
                <th scope="row">{String(row["name"])}</th>
                <td>{family.kind === "board" ? abilityWords(row["abilities"]) : (ROLES[String(row["role"])] ?? "")}</td>
                <td className="quiet">
                  {family.kind === "board" ? String(row["caution"] ?? "") : listed(row["labels"])}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <h3>Figures</h3>
      <div className="family-table" tabIndex={0} role="region" aria-label="Figures">
        <table>
          <thead>
            <tr>
              <th scope="col">what</th>
              <th scope="col" className="figure">
                value
              </th>
              <th scope="col">source</th>
            </tr>
          </thead>
          <tbody>
            {figures.map((figure) => (
              <tr key={figure.path.join(".")}>
                <th scope="row">{figure.title}</th>
                <td className="figure">{shown(figure)}</td>
                <td className="quiet">{figure.source}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function shown({ value, path }: FoundFigure): string {
  const [perUnit, unit] = shownUnit(value, path);
  return `${Number((value / perUnit).toPrecision(6))} ${unit}`.trim();
}

function abilityWords(value: unknown): string {
  const able = Array.isArray(value) ? value.map(String) : [];
  return ABILITIES.filter(({ ability }) => able.includes(ability))
    .map(({ short }) => short)
    .join(", ");
}

function listed(value: unknown): string {
  return Array.isArray(value) ? value.map(String).join(", ") : "";
}
