import type { View } from "../api/queries";

/** A span with a name, s. */
export interface Band {
  id: number;
  name: string;
  from_s: number;
  to_s: number;
}

export interface PlotProps {
  view: View;
  range: [number, number] | null;
  onRange: (range: [number, number] | null) => void;
  onAt: (at: number) => void;
  bands?: Band[];
  threshold?: { stop_m: number; go_m: number } | null;
  /** While true, dragging chooses a span instead of moving the window. */
  selecting?: boolean;
  onSelect?: (from: number, to: number) => void;
  csvHref: string;
  name: string;
  height?: number;
}

/** The properties as they are when something happens, not as they were when the plot was built. */
export type Latest = React.RefObject<PlotProps>;
