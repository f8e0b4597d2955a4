/** The plot's colours as the style sheet has them now. */
export interface Colours {
  sheet: string;
  ink: string;
  quiet: string;
  hairline: string;
  spread: string;
  mark: string;
  markInk: string;
  stop: string;
  stopFill: string;
  go: string;
  hand: string;
}

export function coloursNow(element: Element): Colours {
  const style = getComputedStyle(element);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return {
    sheet: of("--ts-sheet"),
    ink: of("--ts-ink"),
    quiet: of("--ts-quiet"),
    hairline: of("--ts-hairline"),
    spread: of("--ts-spread"),
    mark: of("--ts-mark"),
    markInk: of("--ts-accent"),
    stop: of("--ts-failing"),
    stopFill: of("--ts-stop-fill"),
    go: of("--ts-ticked"),
    hand: of("--ts-accent"),
  };
}
