import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../../api/client";
import { useDeed } from "../../shell/useDeed";
import { type Input, InputField, type Values, asked } from "../../units/InputField";
import { readsIn, saidIn } from "../../units/shown";
import { useUnits } from "../../units/units";
import { BenchPlot } from "../BenchPlot";
import { RecordingHead } from "../RecordingHead";
import { asTrial } from "../draft";
import type { BenchProps } from "../types";
import { SuggestionSum } from "./SuggestionSum";

/** From what the rig does to what is decided. */
export function TuneBench(props: BenchProps) {
  const { sensor, bench, recording, draft, setDraft } = props;
  const saved = sensor.rule;
  const [kindName, setKindName] = useState(draft.rule?.kind ?? saved?.kind ?? bench.rules[0]?.name ?? "");
  const kind = bench.rules.find((one) => one.name === kindName) ?? bench.rules[0];
  const usual = Object.fromEntries((kind?.evidence ?? []).map((input) => [input.name, input.default]));
  const [evidence, setEvidence] = useState<Values>({ ...usual, ...(saved?.evidence ?? {}) });
  const [saving, setSaving] = useState(false);
  const units = useUnits();
  const deed = useDeed();
  const inHand = draft.rule?.parameters ?? (saved && saved.kind === kind?.name ? saved.parameters : null);
  const given = Object.fromEntries(Object.entries(evidence).filter(([, value]) => value !== null));
  const request = {
    kind: kind?.name ?? "",
    evidence: given,
    tried: inHand,
    draft: { ...asTrial(draft), rule: null },
  };
  const suggestion = useQuery({
    queryKey: ["suggestion", sensor.id, request],
    enabled: kind !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/sensors/{sensor_id}/suggestion", {
          params: { path: { sensor_id: sensor.id } },
          body: request,
        }),
      ),
  });
  if (!kind) return <p className="bench-note">There is nothing to decide on this sensor.</p>;
  const found = suggestion.data;
  const wrong = suggestion.error?.message ?? "";
  const isTriedWrong = wrong.startsWith("tried") || kind.parameters.some((one) => wrong.startsWith(`${one.name}:`));

  function set(name: string, value: Values[string]) {
    if (!kind) return;
    const before = inHand ?? found?.parameters ?? {};
    setDraft({ rule: { kind: kind.name, parameters: { ...before, [name]: value } } });
  }

  async function save() {
    if (!kind || !inHand) return;
    setSaving(true);
    const isSet = await deed(
      () =>
        body(
          client.POST("/api/sensors/{sensor_id}/rules", {
            params: { path: { sensor_id: sensor.id } },
            body: { kind: kind.name, parameters: inHand, evidence: given },
          }),
        ),
      "The thresholds are kept.",
      (row) => body(client.DELETE("/api/rules/{rule_id}", { params: { path: { rule_id: row.id } } })),
    );
    if (isSet) setDraft({ rule: null });
    setSaving(false);
  }

  const questions = asked(kind.evidence, evidence);
  const question = (input: Input) => (
    <InputField
      key={input.name}
      input={input}
      value={evidence[input.name] ?? null}
      taken={found?.taken[input.name] ?? null}
      onChange={(value) => setEvidence({ ...evidence, [input.name]: value })}
    />
  );
  const said = (name: string, value: Values[string]) => {
    const input = kind.parameters.find((one) => one.name === name);
    const word = input?.choices.find((one) => one.value === value)?.label;
    if (!input || typeof value !== "number") return word ?? String(value);
    const reads = readsIn(units, input.shown);
    return saidIn(reads, value, Math.max(0, reads.decimals - 1));
  };

  return (
    <>
      {recording ? (
        <>
          <RecordingHead {...props} />
          <BenchPlot {...props} height={190} />
        </>
      ) : (
        <p className="bench-note">No recording yet: what to set can be worked out all the same.</p>
      )}
      <div className="tune">
        <section aria-label={kind.evidence_heading}>
          <h2>{kind.evidence_heading}</h2>
          {bench.rules.length > 1 && (
            <Form.Select
              size="sm"
              className="rule-choice"
              aria-label="Kind of decision"
              value={kind.name}
              onChange={(event) => {
                setKindName(event.target.value);
                setDraft({ rule: null });
              }}
            >
              {bench.rules.map((one) => (
                <option key={one.name} value={one.name}>
                  {one.label}
                </option>
              ))}
            </Form.Select>
          )}
          <div className="fields">{questions.filter((one) => !one.is_rare).map(question)}</div>
          {questions.some((one) => one.is_rare) && (
            <details className="more-fields">
              <summary>more</summary>
              <div className="fields">{questions.filter((one) => one.is_rare).map(question)}</div>
            </details>
          )}
          {found && <SuggestionSum suggestion={found} />}
          {suggestion.isError && !isTriedWrong && <p className="field-problem">{wrong}</p>}
        </section>
        <section aria-label={kind.parameters_heading}>
          <h2>{kind.parameters_heading}</h2>
          <div className="fields">
            {asked(kind.parameters, inHand ?? {}).map((input) => (
              <InputField
                key={input.name}
                input={input}
                value={inHand?.[input.name] ?? null}
                onChange={(value) => value !== null && set(input.name, value)}
              />
            ))}
          </div>
          {suggestion.isError && isTriedWrong && (
            <p className="field-problem" role="alert">
              {wrong.replace(/^\w+: /, "")}
            </p>
          )}
          {found && (
            <p className="quiet">
              {found.tried_says && <span className={found.tried_fails ? "is-bad" : ""}>{found.tried_says} </span>}
              {kind.hint}
            </p>
          )}
          <div className="panel-actions">
            {found && Object.keys(found.parameters).length > 0 && (
              <Button
                size="sm"
                variant="outline-primary"
                disabled={suggestion.isPlaceholderData}
                onClick={() => setDraft({ rule: { kind: kind.name, parameters: { ...inHand, ...found.parameters } } })}
              >
                Take{" "}
                {Object.entries(found.parameters)
                  .map(([name, value]) => said(name, value))
                  .join(Object.keys(found.parameters).length > 2 ? ", " : " and ")}
              </Button>
            )}
            <Button size="sm" disabled={!inHand || isTriedWrong || saving} onClick={() => void save()}>
              Keep the thresholds
            </Button>
            {draft.rule && (
              <Button size="sm" variant="outline-primary" onClick={() => setDraft({ rule: null })}>
                Cancel
              </Button>
            )}
          </div>
          {kind.caution && <p className="caution">{kind.caution}</p>}
        </section>
      </div>
    </>
  );
}
