/** How the line of each row is drawn: the first is the recording itself. */
export interface LineLook {
  colour: string;
  dash: number[];
}

const NAMES = ["--ts-quiet", "--ts-accent", "--ts-ticked", "--ts-stale", "--ts-failing", "--ts-ink", "--ts-accent"];
const DASHES: number[][] = [[], [], [], [], [], [], [6, 3]];

export function lineColours(element: Element): LineLook[] {
  const style = getComputedStyle(element);
  return NAMES.map((name, place) => ({ colour: style.getPropertyValue(name).trim(), dash: DASHES[place] ?? [] }));
}

/** The same as a style for a swatch. */
export const swatch = (place: number) => ({
  borderTop: `3px ${DASHES[place]?.length ? "dashed" : "solid"} var(${NAMES[place] ?? "--ts-ink"})`,
});
