const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const DAY_AND_TIME = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
});

/** Such as "3 Nov", the way the server writes it too. */
export function day(iso: string): string {
  return DAY.format(new Date(iso));
}

/** Such as "3 Nov 2026, 14:05". */
export function dayAndTime(iso: string): string {
  return DAY_AND_TIME.format(new Date(iso));
}
