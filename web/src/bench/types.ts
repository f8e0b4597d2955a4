import type { Bench, CalibrationKind, Fitted, Look, Mark, OutputSeen, Recording, Sensor } from "../api/queries";
import type { Draft } from "./draft";

/** What every bench of a sensor with a chain is given. */
export interface BenchProps {
  sensor: Sensor;
  bench: Bench;
  recording: Recording | null;
  onRecording: (id: number) => void;
  look: Look | undefined;
  /** The output in hand, and everything that is decided. */
  seen: OutputSeen | undefined;
  decisions: OutputSeen[];
  lookError: unknown;
  retryLook: () => void;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
  /** The window of time on screen, s; null for all of it. */
  range: [number, number] | null;
  setRange: (range: [number, number] | null) => void;
  /** The reading in hand, s; null for the last good one. */
  atS: number | null;
  setAtS: (at: number | null) => void;
  openCell: (stage: string) => void;
  calibration: CalibrationKind | undefined;
  setCalibration: (kind: string) => void;
  marks: Mark[] | undefined;
  fitted: Fitted | undefined;
  /** Whether the fit of these marks is being worked out just now. */
  fitting: boolean;
  asRead: "fit" | "none" | "saved";
  setAsRead: (how: "fit" | "none" | "saved") => void;
}
