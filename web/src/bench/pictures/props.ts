import type { Step } from "../../api/queries";
import type { Values } from "../../units/inputs";

/** What a picture of a reading is drawn from: its working, and the settings of its sensor. */
export interface PictureProps {
  steps: Step[];
  parameters: Values;
}
