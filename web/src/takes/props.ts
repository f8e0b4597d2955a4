import type { Series, TakeMark } from "./queries";

/** What stands in one plot. */
export interface Plotted {
  series: Series[];
  names: string[];
}

export interface TakePlotProps {
  plotted: Plotted;
  shown: [number, number];
  full: [number, number];
  selection: [number, number] | null;
  marks: TakeMark[];
  gaps: { from_s: number; to_s: number }[];
  isSelecting: boolean;
  height: number;
  hasTimes: boolean;
  onWindow: (window: [number, number] | null) => void;
  onSelect: (span: [number, number] | null) => void;
  onHover: (t: number | null) => void;
  label: string;
}

/** The properties as they are when something happens, not as they were when the plot was built. */
export type LatestTake = React.RefObject<TakePlotProps>;
