export interface LaneColours {
  ink: string;
  hairline: string;
  mark: string;
  recording: string;
  flag: string;
  hatch: string;
}

/** The colours of the traces as the style sheet has them now. */
export function laneColours(element: Element): LaneColours {
  const style = getComputedStyle(element);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return {
    ink: of("--ts-accent"),
    hairline: of("--ts-hairline"),
    mark: of("--ts-mark"),
    recording: of("--ts-failing"),
    flag: of("--ts-failing"),
    hatch: of("--ts-quiet"),
  };
}
