import { useState } from "react";
import Button from "react-bootstrap/Button";
import { type Part, type PowerSupply, type Wiring, useWiringChanges } from "../queries";
import { placeWords, withoutSpareJoints } from "./places";
import { PartForm } from "./PartForm";
import { SupplyForm } from "./SupplyForm";
import { kindOf } from "./partKinds";

/** Supplies and parts that stand on the bench by themselves, and the joints they meet at. */
export function BenchParts({ wiring }: { wiring: Wiring }) {
  const [adding, setAdding] = useState<"supply" | "part" | null>(null);
  const changes = useWiringChanges(wiring);
  const isBare = wiring.supplies.length === 0 && wiring.parts.length === 0;

  const takeSupply = (gone: PowerSupply & { plus: string; minus: string }) =>
    changes.alter(`${gone.key} is off the bench.`, (now) => {
      const ends = [gone.plus, gone.minus];
      return {
        supplies: now.supplies.filter((one) => one.key !== gone.key),
        parts: now.parts.filter((part) => !Object.values(part.ends).some((end) => ends.includes(end))),
        connections: now.connections.filter((one) => !ends.includes(one.to)),
      };
    });
  const takePart = (gone: Part) =>
    changes.alter(`${gone.key} is off the bench.`, (now) =>
      withoutSpareJoints({ ...now, parts: now.parts.filter((one) => one.key !== gone.key) }),
    );

  return (
    <section className="bench-parts panel" aria-label="Supplies and parts">
      <header>
        <h2>Supplies and parts</h2>
        {isBare && <p className="quiet">Batteries, transistors, fuses, and whatever stands between two places.</p>}
        <span className="page-actions ms-auto">
          <Button
            size="sm"
            variant="outline-primary"
            aria-expanded={adding === "supply"}
            onClick={() => setAdding(adding === "supply" ? null : "supply")}
          >
            Add a supply
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            aria-expanded={adding === "part"}
            onClick={() => setAdding(adding === "part" ? null : "part")}
          >
            Add a part
          </Button>
        </span>
      </header>
      {adding === "supply" && <SupplyForm wiring={wiring} onDone={() => setAdding(null)} />}
      {adding === "part" && <PartForm wiring={wiring} onDone={() => setAdding(null)} />}
      {!isBare && (
        <table className="leads bench-table">
          <tbody>
            {wiring.supplies.map((one) => (
              <tr key={one.key}>
                <th scope="row">{one.words}</th>
                <td>{supplyWords(one)}</td>
                <td>{one.has_common_ground ? "minus on the board’s ground" : "ground of its own"}</td>
                <td>
                  <button type="button" className="link" onClick={() => void takeSupply(one)}>
                    Remove it<span className="visually-hidden"> {one.words}</span>
                  </button>
                </td>
              </tr>
            ))}
            {wiring.parts.map((one) => (
              <tr key={one.key}>
                <th scope="row">{one.key}</th>
                <td>{one.words}</td>
                <td>
                  {Object.entries(one.ends)
                    .map(([leg, end]) => legWords(wiring, one, leg, end))
                    .join(", ")}
                </td>
                <td>
                  <button type="button" className="link" onClick={() => void takePart(one)}>
                    Remove it<span className="visually-hidden"> {one.key}</span>
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function supplyWords({ volts, cells, limit_a }: Wiring["supplies"][number]): string {
  const [least, usual, greatest] = volts.map((one) => Number(one.toFixed(2)));
  const span = least === greatest ? `${usual} V` : `${usual} V, ${least} to ${greatest} V`;
  const from = cells ? `${cells} cell${cells === 1 ? "" : "s"}, ` : "";
  return `${from}${span}${limit_a ? `, gives ${limit_a} A` : ""}`;
}

function legWords(wiring: Wiring, part: Part, leg: string, end: string): string {
  const words = (kindOf(part.kind).legs[leg] ?? leg).split(",")[0];
  return `${words} ${placeWords(wiring, end)}`;
}
