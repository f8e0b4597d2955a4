import type { OutputSeen } from "../api/queries";

/** A span with a name, s. */
export interface Band {
  id: number;
  name: string;
  from_s: number;
  to_s: number;
}

export interface PlotProps {
  /** The output that is drawn. */
  seen: OutputSeen;
  /** What is decided meanwhile. */
  decisions: OutputSeen[];
  durationS: number;
  range: [number, number] | null;
  onRange: (range: [number, number] | null) => void;
  onAt: (at: number) => void;
  bands?: Band[] | undefined;
  /** While true, dragging chooses a span instead of moving the window. */
  selecting?: boolean | undefined;
  onSelect?: ((from: number, to: number) => void) | undefined;
  csvHref: string;
  name: string;
  height?: number | undefined;
}

/** The properties as they are when something happens, not as they were when the plot was built. */
export type Latest = React.RefObject<PlotProps>;
