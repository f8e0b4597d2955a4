import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { NavLink, useParams, useSearchParams } from "react-router";
import { type Schemas, body, client } from "../api/client";
import { Findings } from "../bench/Findings";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { BandedResistor } from "../wire/plan/BeadGlyph";
import { PartCells } from "./PartCells";
import { InputField } from "../units/InputField";
import type { Values } from "../units/inputs";

type Bench = Schemas["PartBenchOut"];

/** Sums about passive parts: inputs, the working, results with their ±. */
export default function PartsPage() {
  const { bench: name } = useParams();
  const benches = useQuery({ queryKey: ["parts"], staleTime: Infinity, queryFn: () => body(client.GET("/api/parts")) });
  const bench = name ? benches.data?.find((one) => one.name === name) : benches.data?.[0];
  return (
    <div className="page parts-page">
      <h1>Parts sums</h1>
      {benches.isPending && <Skeleton lines={8} />}
      {benches.isError && <Trouble error={benches.error} retry={() => void benches.refetch()} />}
      {benches.data && (
        <nav className="part-tabs" aria-label="Parts sums">
          {benches.data.map((one) => (
            <NavLink key={one.name} to={`/parts/${one.name}`} className={one.name === bench?.name ? "is-current" : ""}>
              {one.label}
            </NavLink>
          ))}
        </nav>
      )}
      {benches.data && !bench && (
        <Empty title="There is no such sum.">
          <p>Choose one above.</p>
        </Empty>
      )}
      {bench && <PartBench key={bench.name} bench={bench} />}
    </div>
  );
}

/** What the address fills in, where it is a number for a number. */
function toldIn(told: URLSearchParams, input: Bench["inputs"][number]): Values[string] {
  const value = Number(told.get(input.name) ?? "");
  return told.has(input.name) && typeof input.default === "number" && Number.isFinite(value) ? value : input.default;
}

function PartBench({ bench }: { bench: Bench }) {
  const [told] = useSearchParams();
  const [inputs, setInputs] = useState<Values>(() =>
    Object.fromEntries(bench.inputs.map((input) => [input.name, toldIn(told, input)])),
  );
  const asked = useDeferredValue(inputs);
  const worked = useQuery({
    queryKey: ["parts", bench.name, asked],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      body(client.POST("/api/parts/{name}", { params: { path: { name: bench.name } }, body: { inputs: asked } })),
  });
  return (
    <>
      <p>{bench.what}</p>
      <form className="panel" aria-label={bench.label} onSubmit={(event) => event.preventDefault()}>
        <div className="fields">
          {bench.inputs.map((input) => (
            <InputField
              key={input.name}
              input={input}
              value={inputs[input.name] ?? input.default}
              onChange={(value) => setInputs({ ...inputs, [input.name]: value })}
            />
          ))}
        </div>
      </form>
      {worked.isError && <p className="field-problem">{worked.error.message}</p>}
      {worked.data && !worked.isError && (
        <>
          <PartCells steps={worked.data.steps} />
          <div className="part-outcome">
            <dl className="part-results" aria-label="Results">
              {worked.data.results.map((result) => (
                <div key={result.name}>
                  <dt>{result.name}</dt>
                  <dd>{result.text}</dd>
                </div>
              ))}
              {worked.data.bands.length > 0 && (
                <div>
                  <dt>bands</dt>
                  <dd className="part-bands">
                    <BandedResistor bands={worked.data.bands} width={110} /> {worked.data.bands.join(" ")}
                  </dd>
                </div>
              )}
            </dl>
            {worked.data.findings.length > 0 && (
              <Findings findings={worked.data.findings} open onToggle={() => undefined} />
            )}
          </div>
        </>
      )}
    </>
  );
}
