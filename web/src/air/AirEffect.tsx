import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { type Schemas, body, client } from "../api/client";
import type { Sensor } from "../api/queries";
import { useDeed } from "../shell/useDeed";
import { grouped, quantityText, useUnits } from "../units/units";

type Air = Schemas["AirEffectOut"]["typed"];
type Moved = Schemas["DistanceMovedOut"];

interface Props {
  sensor: Sensor;
  recordingId: number;
}

/** What a thermometer says of the air, what that does to every distance of the rig, and the press that takes it. */
export function AirEffect({ sensor, recordingId }: Props) {
  const units = useUnits();
  const deed = useDeed();
  const found = useQuery({
    // The rig's air has a say in it.
    queryKey: ["air-effect", recordingId, sensor.rig_air, sensor.parameters],
    retry: false,
    queryFn: () =>
      body(
        client.GET("/api/recordings/{recording_id}/air-effect", { params: { path: { recording_id: recordingId } } }),
      ),
  });
  if (found.isError) return <p className="bench-note">{found.error.message}</p>;
  if (!found.data) return null;
  const { typed, told, distances } = found.data;
  const said = (air: Air) => {
    const within = quantityText(units, "temperatureStep", air.temperature_tolerance_c, 1);
    return `${quantityText(units, "temperature", air.temperature_c, 1)} ± ${within}`;
  };
  const isTaken =
    typed.temperature_c === told.temperature_c && typed.temperature_tolerance_c === told.temperature_tolerance_c;
  const put = (air: Air) =>
    body(client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: sensor.rig_id } }, body: { air } }));
  return (
    <section className="air-effect" aria-labelledby="air-effect">
      <h2 id="air-effect">What this air does to the distances of {sensor.rig_name}</h2>
      <p>
        Here the air is {said(told)}.{" "}
        {isTaken ? `So it is noted of ${sensor.rig_name}.` : `Of ${sensor.rig_name} ${said(typed)} is noted.`}{" "}
        {!isTaken && (
          <Button
            size="sm"
            onClick={() =>
              void deed(
                () => put(told),
                `The air of ${sensor.rig_name} is noted as ${said(told)}.`,
                () => put(typed),
              )
            }
          >
            Take {quantityText(units, "temperature", told.temperature_c, 1)} into {sensor.rig_name}
          </Button>
        )}
      </p>
      {distances.length === 0 ? (
        <p className="bench-note">Nothing on {sensor.rig_name} tells a distance yet.</p>
      ) : (
        <div className="digest">
          <table className="mark-table">
            <thead>
              <tr>
                <th scope="col">distance</th>
                <th scope="col" className="figure">
                  in the air noted
                </th>
                <th scope="col" className="figure">
                  in this air
                </th>
                <th scope="col" className="figure">
                  moved by
                </th>
              </tr>
            </thead>
            <tbody>
              {distances.map((one) => (
                <Row key={one.sensor_id} moved={one} />
              ))}
            </tbody>
          </table>
        </div>
      )}
      <p className="quiet">
        ± is all that the working doubts, twice the standard uncertainty. What was recorded keeps the air it was
        recorded in.
      </p>
    </section>
  );
}

function Row({ moved }: { moved: Moved }) {
  const units = useUnits();
  const { typed_m, told_m } = moved;
  const small = (metres: number) => quantityText(units, "smallLength", metres, 1);
  const said = (value: number | null, u: number | null) => {
    if (value === null) return "–";
    const whole = quantityText(units, "length", value, 3);
    return u === null ? whole : `${whole} ± ${small(2 * u)}`;
  };
  const shift = () => {
    if (!moved.rests) return "the air has no say";
    if (typed_m === null || told_m === null) return "cannot be said";
    const moves = told_m - typed_m;
    return `${moves > 0 ? "+" : ""}${small(moves)} (${grouped((100 * moves) / typed_m, 1)} %)`;
  };
  return (
    <tr>
      <th scope="row">
        <Link to={`/sensors/${moved.sensor_id}/heard`}>{moved.sensor}</Link>
        <small>{moved.is_heard ? "the middle of its newest recording" : "nothing recorded: at one metre"}</small>
      </th>
      <td className="figure">{said(typed_m, moved.u_typed_m)}</td>
      <td className="figure">{said(told_m, moved.u_told_m)}</td>
      <td className="figure">{shift()}</td>
    </tr>
  );
}
