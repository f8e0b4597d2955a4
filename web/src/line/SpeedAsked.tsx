import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Trouble } from "../shell/States";

const SPEEDS = [
  4800, 9600, 19200, 38400, 57600, 74880, 115200, 230400, 250000, 460800, 500000, 921600, 1000000, 2000000,
];

interface Props {
  error: unknown;
  isBusy: boolean;
  onSpeed: (speed: number) => void;
}

/** Why listening failed, and the one thing a person may know better: the speed the program sets. */
export function SpeedAsked({ error, isBusy, onSpeed }: Props) {
  const [speed, setSpeed] = useState(115200);
  return (
    <div className="speed-asked">
      <Trouble error={error} />
      <form
        className="fields"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          onSpeed(speed);
        }}
      >
        <Form.Group controlId="port-speed" className="quantity">
          <Form.Label>Speed its program sets</Form.Label>
          <Form.Select size="sm" value={speed} onChange={(event) => setSpeed(Number(event.target.value))}>
            {SPEEDS.map((one) => (
              <option key={one} value={one}>
                {one} baud
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        <div className="panel-actions inline">
          <Button type="submit" size="sm" disabled={isBusy}>
            Listen at it
          </Button>
        </div>
      </form>
    </div>
  );
}
