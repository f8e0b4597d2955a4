/** What a wire of a colour looks like, on paper and on slate. */
const SHADES: Record<string, string> = {
  red: "#c8392b",
  black: "#2a2e31",
  brown: "#7b4a26",
  orange: "#e0781e",
  yellow: "#d9a900",
  green: "#3c8f4f",
  blue: "#2f6fb5",
  violet: "#7c51a8",
  grey: "#84898d",
  white: "#f4f1e6",
  pink: "#d6759d",
  turquoise: "#1f9a9a",
  gold: "#c69a2d",
  silver: "#b9bcbf",
};

export function wireColour(name: string): string {
  return SHADES[name] ?? "#84898d";
}
