import type { Marks, Recording, Sensor, View } from "../api/queries";
import type { Draft } from "./draft";

/** What every bench of a sensor with a chain is given. */
export interface BenchProps {
  sensor: Sensor;
  recording: Recording | null;
  onRecording: (id: number) => void;
  view: View | undefined;
  viewError: unknown;
  retryView: () => void;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
  /** The window of time on screen, s; null for all of it. */
  range: [number, number] | null;
  setRange: (range: [number, number] | null) => void;
  /** The reading in hand, s; null for the last good one. */
  atS: number | null;
  setAtS: (at: number | null) => void;
  openCell: (stage: string) => void;
  marks: Marks | undefined;
  asRead: "fit" | "none" | "saved";
  setAsRead: (how: "fit" | "none" | "saved") => void;
}
