import { useTake } from "../takes/queries";
import type { Columns, ControlBench } from "./queries";

interface Props {
  bench: ControlBench;
  columns: Columns | null;
  onChange: (columns: Columns) => void;
  /** Whether a set point is asked for too. */
  hasWanted: boolean;
}

const LIKELY: Record<string, string[]> = {
  measured: ["measured", "y", "value", "speed", "reading"],
  output: ["output", "u", "duty", "pwm", "drive"],
  wanted: ["set", "wanted", "target", "setpoint"],
};

/** Which recording, and which of its columns is what; likely names are taken as they are. */
export function ColumnsChoice({ bench, columns, onChange, hasWanted }: Props) {
  const take = useTake(columns?.take_id ?? 0);
  const channels = take.data?.channels ?? [];
  const find = (names: { name: string }[], what: string) =>
    names.findIndex((one) => LIKELY[what]?.includes(one.name.toLowerCase()));
  const known = columns !== null && columns.measured >= 0;
  if (take.data && columns && !known) {
    const wanted = find(channels, "wanted");
    onChange({
      take_id: columns.take_id,
      measured: Math.max(0, find(channels, "measured")),
      output: Math.max(0, find(channels, "output")),
      ...(hasWanted && wanted >= 0 ? { wanted } : {}),
    });
  }
  const column = (label: string, key: "measured" | "output" | "wanted") => (
    <label>
      {label}
      <select
        className="form-select form-select-sm"
        value={columns?.[key] ?? ""}
        onChange={(event) =>
          columns &&
          onChange({ ...columns, [key]: event.target.value === "" ? null : Number(event.target.value) } as Columns)
        }
      >
        {key === "wanted" && <option value="">none</option>}
        {channels.map((one, number) => (
          <option key={one.name} value={number}>
            {one.name}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <div className="replay-head">
      <label>
        Recording
        <select
          className="form-select form-select-sm"
          value={columns?.take_id ?? ""}
          onChange={(event) => onChange({ take_id: Number(event.target.value), measured: -1, output: -1 })}
        >
          <option value="" disabled>
            choose one
          </option>
          {bench.takes.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      {known && (
        <>
          {column("measured", "measured")}
          {column("output", "output")}
          {hasWanted && column("set point", "wanted")}
        </>
      )}
    </div>
  );
}
