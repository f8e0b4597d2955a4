import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useSearchParams } from "react-router";
import { body, client } from "../../api/client";
import { usePaced } from "../../api/paced";
import { useDeed } from "../../shell/useDeed";
import { InputField } from "../../units/InputField";
import { asked, type Input, type Values } from "../../units/inputs";
import { readsIn, saidIn } from "../../units/shown";
import { useUnits } from "../../units/units";
import { BenchPlot } from "../BenchPlot";
import { RecordingHead } from "../RecordingHead";
import { asTrial } from "../draft";
import type { BenchProps } from "../types";
import { CurvePlot } from "./CurvePlot";
import { LaneThresholds } from "./LaneThresholds";
import { SightTable } from "./SightTable";
import { SuggestionSum } from "./SuggestionSum";

/** The letters of a table in hand, or those that are told. */
function lettersOf(inHand: Values | null, rows: { number: number; told: string }[]): string {
  const letters = inHand?.["table"];
  if (typeof letters === "string" && letters.length === rows.length) return letters;
  return [...rows]
    .sort((a, b) => a.number - b.number)
    .map((row) => row.told)
    .join("");
}

const asQuery = (inputs: Record<string, number>) =>
  new URLSearchParams(Object.entries(inputs).map(([name, value]) => [name, String(value)])).toString();

/** From what the rig does to what is decided. */
export function TuneBench(props: BenchProps) {
  const { sensor, bench, recording, draft, setDraft } = props;
  const [search] = useSearchParams();
  const [kindName, setKindName] = useState(search.get("rule") ?? draft.rule?.kind ?? sensor.rules[0]?.kind ?? "");
  const kind = bench.rules.find((one) => one.name === kindName) ?? bench.rules[0];
  const saved = sensor.rules.find((one) => one.kind === kind?.name);
  const usual = Object.fromEntries((kind?.evidence ?? []).map((input) => [input.name, input.default]));
  // What another bench of the rig has measured may be handed over in the address.
  const [told, setTold] = useState<Record<string, Values>>(() => {
    const handed = (kind?.evidence ?? [])
      .map((input) => [input.name, Number(search.get(input.name) ?? "")] as const)
      .filter(([name, value]) => search.get(name) && Number.isFinite(value));
    return kind && handed.length > 0 ? { [kind.name]: Object.fromEntries(handed) } : {};
  });
  const evidence = { ...usual, ...(saved?.evidence ?? {}), ...told[kind?.name ?? ""] };
  const [saving, setSaving] = useState(false);
  const units = useUnits();
  const deed = useDeed();
  const inHand = draft.rule?.kind === kind?.name ? (draft.rule?.parameters ?? null) : (saved?.parameters ?? null);
  const given = Object.fromEntries(Object.entries(evidence).filter(([, value]) => value !== null));
  const request = {
    kind: kind?.name ?? "",
    evidence: given,
    tried: inHand,
    draft: { ...asTrial(draft), rule: null },
  };
  const { asked: paced, isSame, next } = usePaced(request, sensor.id);
  const suggestion = useQuery({
    queryKey: ["suggestion", sensor.id, paced],
    enabled: kind !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/sensors/{sensor_id}/suggestion", {
          params: { path: { sensor_id: sensor.id } },
          body: paced,
        }),
      ),
  });
  next(suggestion.isFetching);
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
      "The decision is kept.",
      (row) => body(client.DELETE("/api/rules/{rule_id}", { params: { path: { rule_id: row.id } } })),
    );
    if (isSet) setDraft({ rule: null });
    setSaving(false);
  }

  // A table is set row by row, not as a text.
  const fields = asked(kind.parameters, inHand ?? {}).filter((one) => one.form !== "words" || !found?.table.length);
  const questions = asked(kind.evidence, evidence);
  const question = (input: Input) => (
    <InputField
      key={input.name}
      input={input}
      value={evidence[input.name] ?? null}
      taken={found?.taken[input.name] ?? null}
      onChange={(value) => setTold({ ...told, [kind.name]: { ...told[kind.name], [input.name]: value } })}
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
      {found && found.lanes.length > 0 && (
        <LaneThresholds
          lanes={found.lanes}
          elsewhere={found.elsewhere}
          tried={
            inHand && Array.isArray(inHand["at"]) && Array.isArray(inHand["half"])
              ? { at: inHand["at"], half: inHand["half"] }
              : null
          }
          onMove={(at, half) => setDraft({ rule: { kind: kind.name, parameters: { ...inHand, at, half } } })}
        />
      )}
      {found && found.table.length > 0 && (
        <SightTable
          bench={props}
          rows={found.table}
          words={found.table_words}
          letters={lettersOf(inHand, found.table)}
          onLetters={(table) => set("table", table)}
        />
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
          {found?.curve && <CurvePlot curve={found.curve} />}
          {found?.findings.map((one) => (
            <p key={one.title} className={one.severity === "error" ? "field-problem" : "quiet"}>
              {one.title} {one.why} {one.remedy}
            </p>
          ))}
          {suggestion.isError && !isTriedWrong && <p className="field-problem">{wrong}</p>}
        </section>
        <section aria-label={kind.parameters_heading}>
          <h2>{kind.parameters_heading}</h2>
          <div className="fields">
            {fields.map((input) => (
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
                disabled={suggestion.isPlaceholderData || !isSame}
                onClick={() => setDraft({ rule: { kind: kind.name, parameters: { ...inHand, ...found.parameters } } })}
              >
                {found.lanes.length > 0
                  ? "Take these for all sensors"
                  : found.table.length > 0
                    ? "Take this table"
                    : Object.keys(found.parameters).length > 3
                      ? "Take what is suggested"
                      : `Take ${Object.entries(found.parameters)
                          .map(([name, value]) => said(name, value))
                          .join(Object.keys(found.parameters).length > 2 ? ", " : " and ")}`}
              </Button>
            )}
            <Button size="sm" disabled={!inHand || isTriedWrong || saving} onClick={() => void save()}>
              Keep {kind.keep}
            </Button>
            {draft.rule && (
              <Button size="sm" variant="outline-primary" onClick={() => setDraft({ rule: null })}>
                Cancel
              </Button>
            )}
          </div>
          {found?.sum && (
            <p className="mt-2">
              <Link to={`/parts/${found.sum.bench}?${asQuery(found.sum.inputs)}`}>{found.sum.label}</Link>
            </p>
          )}
          {kind.caution && <p className="caution">{kind.caution}</p>}
        </section>
      </div>
    </>
  );
}
