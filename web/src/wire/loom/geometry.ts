/** How wide the comb of pins is drawn, and how much of a thread one bead takes. */
export const COMB_WIDTH = 92;
export const BEAD_PITCH = 62;

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Point {
  x: number;
  y: number;
}

/** Where everything stands, in drawing units. */
export interface LoomLayout {
  width: number;
  height: number;
  cards: Map<number, Box>;
  /** Where a lead leaves its card, by thread. */
  leads: Map<string, Point>;
  /** Where the beads of a thread are strung. */
  strings: Map<string, Box>;
  /** The run of each thread, in one piece or two with its beads between. */
  runs: Map<string, Point[][]>;
  comb: Box;
  teeth: Map<string, Point>;
}
