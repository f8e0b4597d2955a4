import type { Circuit, Wiring } from "../queries";

/** A place a wire or a leg of a part can go to, as one chooses it. */
export interface Choice {
  name: string;
  words: string;
}

/** All places in groups, in the order one looks for them; empty groups are left out. */
export function placeGroups(wiring: Wiring): { label: string; choices: Choice[] }[] {
  const own = (group: string) => wiring.places.filter((place) => place.group === group);
  return [
    {
      label: "Supplies and ground",
      choices: [...wiring.rails.map(({ name }) => ({ name, words: name })), ...own("supplies")],
    },
    { label: "Joints", choices: own("joints") },
    { label: "Pins", choices: wiring.pins.map(({ name }) => ({ name, words: name })) },
    { label: "Leads of devices", choices: own("leads") },
  ].filter((group) => group.choices.length > 0);
}

/** A place as a person calls it. */
export function placeWords(wiring: Wiring, name: string): string {
  return wiring.places.find((place) => place.name === name)?.words ?? name;
}

/** The next name of a kind that nobody has yet, such as J3 after J1 and J2. */
export function freeName(letter: string, taken: string[]): string {
  let number = 1;
  while (taken.includes(`${letter}${number}`)) number += 1;
  return `${letter}${number}`;
}

/** The circuit without the joints that no wire and no leg goes to. */
export function withoutSpareJoints(circuit: Circuit): Circuit {
  const used = new Set([
    ...circuit.parts.flatMap((part) => Object.values(part.ends)),
    ...circuit.connections.map((one) => one.to),
  ]);
  return { ...circuit, joints: circuit.joints.filter((joint) => used.has(joint)) };
}
