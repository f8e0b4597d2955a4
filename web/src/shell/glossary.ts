/** House words, and those of the trade that a beginner may not know, each in a sentence. */
export const GLOSSARY = {
  stone: "One stage of the work for one sensor, and whether it still holds.",
  "working line": "The whole arithmetic from the raw tick to the number, cell by cell.",
  take: "All that one line or file said, its channels side by side.",
  loom: "The drawing of the wiring: each thread is a wire from a lead to a pin.",
  "k = 2": "The ± is twice the standard uncertainty: about 19 of 20 such statements hold.",
  rectangular:
    "Anywhere within ± the stated limit is equally likely, so its standard uncertainty is the limit divided by √3.",
  "path triangle":
    "Emitter and receiver stand apart, so the sound runs along two sides of a triangle and not straight.",
  unipolar: "A switch that one pole of a magnet closes; it opens when the magnet leaves.",
  latching: "A switch that one pole closes and only the other pole opens.",
  "open drain": "An output that can only pull down; a resistor has to lift it.",
  "pull-up": "A resistor from a wire to its supply, which lifts the wire when nothing pulls it down.",
  jitter: "How unevenly the lines arrive, as a standard deviation.",
  ratiometric: "Its output is a share of its supply, so the converter should measure against that same supply.",
} as const;

export type Word = keyof typeof GLOSSARY;
