interface Told {
  name: string;
  pose: string;
  lane: number | null;
}

/** What a mark is called: its own name, or else the pose it was held in, and under which sensor. */
export function markSays({ name, pose, lane }: Told): string {
  const held = lane === null ? pose : [pose, `sensor ${lane + 1}`].filter(Boolean).join(", ");
  return name || held;
}
