import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import { InputField } from "../units/InputField";
import { asked, type Values } from "../units/inputs";
import { FindingList } from "./Findings";
import { asTrial } from "./draft";
import type { BenchProps } from "./types";

type Props = Pick<BenchProps, "bench" | "sensor" | "look" | "draft">;

/** The reading in hand beside another way to know it: do they agree, and if not, what is behind it? */
export function HeldAgainst({ bench, sensor, look, draft }: Props) {
  const [name, setName] = useState(bench.checks[0]?.name ?? "");
  const [given, setGiven] = useState<Record<string, Values>>({});
  const [open, setOpen] = useState(false);
  const check = bench.checks.find((one) => one.name === name);
  const seen = look?.outputs.find((one) => one.name === check?.takes);
  const inHand = seen?.working.at(-1);
  const usual = Object.fromEntries((check?.asks ?? []).map((input) => [input.name, input.default]));
  const values: Values = { ...usual, ...given[name] };
  const value = inHand?.value ?? null;
  const request = {
    name,
    asked: Object.fromEntries(Object.entries(values).filter(([, one]) => one !== null)) as Record<
      string,
      number | boolean | string
    >,
    value: value ?? 0,
    u: inHand?.u ?? null,
    draft: asTrial(draft),
  };
  const found = useQuery({
    queryKey: ["check", sensor.id, request],
    enabled: open && check !== undefined && value !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/sensors/{sensor_id}/checks", {
          params: { path: { sensor_id: sensor.id } },
          body: request,
        }),
      ),
  });
  if (!check) return null;
  return (
    <details className="more-fields held-against" open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>Hold the reading against something else</summary>
      {bench.checks.length > 1 && (
        <Form.Select
          size="sm"
          className="rule-choice"
          aria-label="Hold against"
          value={name}
          onChange={(event) => setName(event.target.value)}
        >
          {bench.checks.map((one) => (
            <option key={one.name} value={one.name}>
              {one.label}
            </option>
          ))}
        </Form.Select>
      )}
      <p className="quiet">{check.what}</p>
      <div className="fields">
        {asked(check.asks, values).map((input) => (
          <InputField
            key={input.name}
            input={input}
            value={values[input.name] ?? null}
            onChange={(next) => setGiven({ ...given, [name]: { ...given[name], [input.name]: next } })}
          />
        ))}
      </div>
      {value === null && <p className="bench-note">There is no good reading in hand; click one on the plot.</p>}
      {found.isError && <p className="field-problem">{found.error.message}</p>}
      {found.data && value !== null && !found.isError && (
        <div aria-live="polite">
          <p className={`verdict ${found.data.is_good === false ? "is-bad" : ""}`}>
            {inHand?.shown} {inHand?.shown_unit}: <b>{found.data.says}</b>
          </p>
          <FindingList findings={found.data.findings} />
        </div>
      )}
      {check.caution && <p className="caution">{check.caution}</p>}
    </details>
  );
}
