import type { Schemas } from "../api/client";

export type LogFile = Schemas["TakeFileOut"];
export type Column = LogFile["columns"][number];
type Form = LogFile["sensors"][number]["forms"][number];

/** What a person says of a column: whose it is, which input of it, how it comes, in which unit. */
export interface Use {
  sensor_id: number | null;
  role: string;
  form: string;
  unit: string;
}

export const guessedUse = (column: Column): Use => ({
  sensor_id: column.sensor_id,
  role: column.role,
  form: column.form,
  unit: column.unit,
});

/** A use as one choice of a list, and back. */
export const keyOf = (use: Use) => (use.sensor_id === null ? "" : `${use.sensor_id}:${use.role}:${use.form}`);

export function withKey(use: Use, key: string, file: LogFile): Use {
  const [id = "", role = "", form = ""] = key.split(":");
  if (id === "") return { ...use, sensor_id: null, role: "", form: "" };
  const next = { ...use, sensor_id: Number(id), role, form };
  const units = formOf(file, next)?.units;
  const known = units === undefined || units.includes(use.unit);
  return { ...next, unit: known ? use.unit : (units[0] ?? "") };
}

export function formOf(file: LogFile, use: Use): Form | undefined {
  const sensor = file.sensors.find((one) => one.sensor_id === use.sensor_id);
  return sensor?.forms.find((one) => one.role === use.role && one.form === use.form);
}

/** Columns that cannot all be what they are said to be: the numbers of the later ones. */
export function twice(file: LogFile, uses: Record<number, Use>): number[] {
  const taken = new Map<string, { form: string; count: number }>();
  return file.columns
    .filter((column) => {
      const use = uses[column.number];
      if (!use || use.sensor_id === null || use.role === "") return false;
      const key = `${use.sensor_id}:${use.role}`;
      const before = taken.get(key) ?? { form: use.form, count: 0 };
      taken.set(key, { ...before, count: before.count + 1 });
      return before.form !== use.form || before.count >= (formOf(file, use)?.most_columns ?? 1);
    })
    .map((column) => column.number);
}
