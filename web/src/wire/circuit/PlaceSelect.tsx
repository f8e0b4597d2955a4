import Form from "react-bootstrap/Form";
import type { Wiring } from "../queries";
import { placeGroups } from "./places";

interface Props {
  wiring: Wiring;
  label: string;
  value: string;
  /** A joint that is made when it is chosen; its name. */
  newJoint?: string;
  onChange: (place: string) => void;
}

/** Any place of the wiring: rail, supply, joint, pin or lead. */
export function PlaceSelect({ wiring, label, value, newJoint, onChange }: Props) {
  return (
    <Form.Select size="sm" aria-label={label} value={value} onChange={(event) => onChange(event.target.value)}>
      <option value="">choose …</option>
      {newJoint && <option value={newJoint}>a new joint, {newJoint}</option>}
      {placeGroups(wiring).map((group) => (
        <optgroup key={group.label} label={group.label}>
          {group.choices.map((one) => (
            <option key={one.name} value={one.name}>
              {one.words}
            </option>
          ))}
        </optgroup>
      ))}
    </Form.Select>
  );
}
