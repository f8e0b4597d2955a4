import { useQuery } from "@tanstack/react-query";
import { body, client } from "../../api/client";
import type { Sensor } from "../../api/queries";
import { Trouble } from "../../shell/States";
import { readsIn, saidIn } from "../../units/shown";
import { grouped, useUnits } from "../../units/units";

interface Props {
  sensor: Sensor;
  recordingId: number | null;
  onChoose: (id: number | null) => void;
}

/** The recording of a run, and what it did against what was told beforehand. */
export function RunChoice({ sensor, recordingId, onChoose }: Props) {
  const units = useUnits();
  const told = useQuery({
    queryKey: ["run", sensor.id, recordingId],
    enabled: recordingId !== null,
    retry: false,
    queryFn: () =>
      body(
        client.GET("/api/sensors/{sensor_id}/runs/{recording_id}", {
          params: { path: { sensor_id: sensor.id, recording_id: recordingId ?? 0 } },
        }),
      ),
  });
  if (sensor.recordings.length === 0) return null;
  return (
    <div className="run-choice">
      <label>
        The run, as evidence
        <select
          className="form-select form-select-sm"
          value={recordingId ?? ""}
          onChange={(event) => onChoose(event.target.value === "" ? null : Number(event.target.value))}
        >
          <option value="">none was recorded</option>
          {sensor.recordings.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      {told.isError && recordingId !== null && <Trouble error={told.error} />}
      {told.data && recordingId !== null && told.data.figures.length === 0 && <p className="quiet">{told.data.says}</p>}
      {told.data && recordingId !== null && told.data.figures.length > 0 && (
        <table className="mark-table">
          <thead>
            <tr>
              <th scope="col">In the run it</th>
              <th scope="col" className="figure">
                at, s
              </th>
              <th scope="col" className="figure">
                was
              </th>
              <th scope="col" className="figure">
                told
              </th>
            </tr>
          </thead>
          <tbody>
            {told.data.figures.map((one) => {
              const reads = readsIn(units, one.quantity.shown);
              return (
                <tr key={`${one.label} ${one.at_s}`}>
                  <th scope="row">{one.label}</th>
                  <td className="figure">{grouped(one.at_s, 1)}</td>
                  <td className={`figure ${one.is_off ? "is-bad" : ""}`}>
                    {one.measured === null ? "–" : saidIn(reads, one.measured, 2)}
                  </td>
                  <td className="figure">
                    {one.predicted === null || one.allowed === null
                      ? "nothing told it"
                      : `${saidIn(reads, one.predicted, 2)} ± ${grouped(reads.step(one.allowed), 2)}`}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}
