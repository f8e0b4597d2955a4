/** The loom's own colours, written into the drawing so that it stands by itself as a file. */
export interface Palette {
  ground: string;
  sheet: string;
  ink: string;
  quiet: string;
  line: string;
  accent: string;
  casing: string;
  bands: string[];
  bandInk: string[];
  groundBand: string;
  groundInk: string;
  error: string;
  warning: string;
  note: string;
}

export const PAPER: Palette = {
  ground: "#f5f2ea",
  sheet: "#fffefa",
  ink: "#1d2b33",
  quiet: "#56656c",
  line: "#c9c2ad",
  accent: "#1f5c7d",
  casing: "#6f6a5a",
  bands: ["#f0c7b9", "#f3dcae", "#e3c9de"],
  bandInk: ["#7a2517", "#6b4300", "#5c2c58"],
  groundBand: "#cdd3cf",
  groundInk: "#2b3a36",
  error: "#a32a1f",
  warning: "#8d5400",
  note: "#1f5c7d",
};

export const SLATE: Palette = {
  ground: "#1a2126",
  sheet: "#222b31",
  ink: "#e9e6dc",
  quiet: "#a9b4b8",
  line: "#46535b",
  accent: "#7fc0e2",
  casing: "#aaa593",
  bands: ["#5a2f27", "#574320", "#4b3049"],
  bandInk: ["#f6c1b5", "#f3d596", "#e8c6e4"],
  groundBand: "#3a4643",
  groundInk: "#d4ddd9",
  error: "#f39a8d",
  warning: "#efb75a",
  note: "#7fc0e2",
};
