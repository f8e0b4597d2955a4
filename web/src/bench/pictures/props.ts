import type { Step } from "../../api/queries";
import type { Values } from "../../units/InputField";

/** What a picture of a reading is drawn from: its working, and the settings of its sensor. */
export interface PictureProps {
  steps: Step[];
  parameters: Values;
}
