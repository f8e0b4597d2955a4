import { useState } from "react";
import {
  type Bead,
  type Connection,
  type Lead,
  type WiredDevice,
  type Wiring,
  sent,
  useWiringChanges,
} from "../queries";
import { BeadEditor } from "./BeadEditor";
import { BeadGlyph } from "./BeadGlyph";

/** The parts on the wire of a lead, to be changed where they are shown: chips, and an editor for one. */
export function useWireParts(wiring: Wiring, device: WiredDevice, lead: Lead, wanted: Bead["kind"] | null = null) {
  /** The place of the part being changed; a kind for one more; null when none is. */
  const [editing, setEditing] = useState<number | Bead["kind"] | null>(wanted);
  const changes = useWiringChanges(wiring);
  const { end } = lead;
  const name = `${device.name} ${lead.name}`;
  const edited = typeof editing === "number" ? end?.beads[editing] : undefined;
  const isNew = typeof editing === "string";

  function change(alter: (beads: Bead[]) => Bead[]) {
    setEditing(null);
    void changes.connect(device, lead, (now: Connection) => ({ beads: alter(now.beads ?? []) }));
  }

  const chips = (
    <>
      {end?.beads.map((bead, index) => (
        <span key={index} className="bead">
          <button
            type="button"
            className="bead-words"
            aria-expanded={editing === index}
            aria-label={`Change ${bead.words} of ${name}`}
            title={`± ${Number((100 * bead.tolerance).toPrecision(3))} %${bead.ohm ? `, ${bead.power_w} W` : ""}`}
            onClick={() => setEditing(editing === index ? null : index)}
          >
            <BeadGlyph bead={bead} />
            {bead.words}
          </button>
          <button
            type="button"
            aria-label={`Take ${bead.words} off ${name}`}
            onClick={() => change((beads) => beads.filter((_, other) => other !== index))}
          >
            ×
          </button>
        </span>
      ))}
      {end && (
        <button
          type="button"
          className="link add-bead"
          aria-expanded={isNew}
          aria-label={`Add a part to ${name}`}
          onClick={() => setEditing(isNew ? null : "series")}
        >
          + part
        </button>
      )}
    </>
  );

  const editor = end && (isNew || edited) && (
    <BeadEditor
      key={editing}
      bead={edited ? sent(edited) : null}
      kind={isNew ? editing : "series"}
      rails={wiring.rails.filter((rail) => rail.kind !== "ground").map((rail) => rail.name)}
      onLeave={() => setEditing(null)}
      onNearer={
        typeof editing === "number" && editing > 0 ? () => change((beads) => nearer(beads, editing)) : undefined
      }
      onKeep={(bead) =>
        change((beads) => (isNew ? [...beads, bead] : beads.map((one, place) => (place === editing ? bead : one))))
      }
    />
  );

  return { chips, editor };
}

/** The parts with one of them a place nearer to the device. */
function nearer(beads: Bead[], place: number): Bead[] {
  const next = [...beads];
  next.splice(place - 1, 2, ...beads.slice(place - 1, place + 1).reverse());
  return next;
}
