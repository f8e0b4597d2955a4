import Form from "react-bootstrap/Form";
import { tint } from "./FirstLines";
import { type LogFile, type Use, formOf, keyOf, twice, withKey } from "./columns";

interface Props {
  file: LogFile;
  uses: Record<number, Use>;
  onUses: (uses: Record<number, Use>) => void;
}

/** What each column is: of which sensor, which input, in which unit. */
export function ColumnUses({ file, uses, onUses }: Props) {
  const again = twice(file, uses);
  return (
    <table className="file-columns">
      <thead>
        <tr>
          <th scope="col">column</th>
          <th scope="col">what it is</th>
          <th scope="col">in</th>
        </tr>
      </thead>
      <tbody>
        {file.time_column && (
          <tr>
            <td>
              <mark className={tint(-1)}>{file.time_column}</mark>
            </td>
            <td>the time</td>
            <td>{file.time_unit}</td>
          </tr>
        )}
        {file.columns.map((column) => {
          const use = uses[column.number];
          if (!use) return null;
          const form = formOf(file, use);
          return (
            <tr key={column.number}>
              <td>
                <mark className={tint(column.number)}>{column.name}</mark>
              </td>
              <td>
                <Form.Select
                  size="sm"
                  aria-label={`What ${column.name} is`}
                  value={keyOf(use)}
                  onChange={(event) => onUses({ ...uses, [column.number]: withKey(use, event.target.value, file) })}
                >
                  <option value="">kept, of no sensor</option>
                  {file.sensors.map((sensor) => (
                    <optgroup key={sensor.sensor_id} label={sensor.name}>
                      {use.sensor_id === sensor.sensor_id && !form && (
                        <option value={keyOf(use)}>{column.guess}</option>
                      )}
                      {sensor.forms.length === 0 && use.sensor_id !== sensor.sensor_id && (
                        <option value={`${sensor.sensor_id}::`}>of {sensor.name}</option>
                      )}
                      {sensor.forms.map((one) => (
                        <option key={`${one.role} ${one.form}`} value={`${sensor.sensor_id}:${one.role}:${one.form}`}>
                          {one.label}
                        </option>
                      ))}
                    </optgroup>
                  ))}
                </Form.Select>
                {again.includes(column.number) && (
                  <div className="field-problem">as many columns are that already; choose another for one</div>
                )}
                {form?.loses && <div className="field-hint">{form.loses}</div>}
              </td>
              <td>
                {form && form.units.length > 1 ? (
                  <Form.Select
                    size="sm"
                    aria-label={`Unit of ${column.name}`}
                    value={use.unit}
                    onChange={(event) => onUses({ ...uses, [column.number]: { ...use, unit: event.target.value } })}
                  >
                    {!form.units.includes(use.unit) && <option value={use.unit}>{use.unit || "no unit said"}</option>}
                    {form.units.map((unit) => (
                      <option key={unit} value={unit}>
                        {unit || "plain numbers"}
                      </option>
                    ))}
                  </Form.Select>
                ) : (
                  use.unit || "–"
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
