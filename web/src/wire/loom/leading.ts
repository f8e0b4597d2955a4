import { withoutSpareJoints } from "../circuit/places";
import type { Circuit } from "../queries";
import type { InHand } from "./targets";

/** The circuit with what is in hand led to a place. Joints nobody is on any more go. */
export function ledTo(circuit: Circuit, held: InHand, place: string): Circuit {
  if ("part" in held) {
    const parts = circuit.parts.map((one) =>
      one.key === held.part.key ? { ...one, ends: { ...one.ends, [held.leg]: place } } : one,
    );
    return withoutSpareJoints({ ...circuit, parts });
  }
  const isMine = (one: { device: number; lead: string }) =>
    one.device === held.device.id && one.lead === held.lead.name;
  const before = circuit.connections.find(isMine) ?? {
    device: held.device.id,
    lead: held.lead.name,
    to: "",
    beads: [],
    colour: "",
    is_fixed: false,
  };
  return withoutSpareJoints({
    ...circuit,
    connections: [...circuit.connections.filter((one) => !isMine(one)), { ...before, to: place }],
    left_open: circuit.left_open.filter((one) => !isMine(one)),
  });
}
