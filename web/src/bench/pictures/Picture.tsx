import type { ComponentType } from "react";
import { type Step, useSensor } from "../../api/queries";
import { LevelPicture } from "./LevelPicture";
import { RowPicture } from "./RowPicture";
import type { PictureProps } from "./props";

/** Pictures of a reading, by the kind of sensor they are of; a page works without. */
const PICTURES: Record<string, ComponentType<PictureProps>> = {
  reflectance: RowPicture,
  six_axis: LevelPicture,
  analogue3: LevelPicture,
};

/** The picture of a reading, where its kind has one. */
export function Picture({ kind, ...props }: PictureProps & { kind: string }) {
  const Drawn = PICTURES[kind];
  return Drawn ? <Drawn {...props} /> : null;
}

/** The picture of what a sensor says now, by how it is set. */
export function LivePicture({ sensorId, steps }: { sensorId: number; steps: Step[] }) {
  const { data } = useSensor(sensorId);
  return data?.bench ? <Picture kind={data.bench.kind} steps={steps} parameters={data.parameters} /> : null;
}
