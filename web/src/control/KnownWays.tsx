import { useState } from "react";
import Button from "react-bootstrap/Button";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { problemOf } from "../api/client";
import { type ControlBench, type Plant, type Values, tune } from "./queries";

interface Props {
  bench: ControlBench;
  plant: Plant;
  onTake: (gains: Values) => void;
}

/** Gains by published rules, with where they are from and what each is for. */
export function KnownWays({ bench, plant, onTake }: Props) {
  return (
    <div className="known-ways">
      {bench.rules.map((rule) => (
        <Way key={rule.name} rule={rule} bench={bench} plant={plant} onTake={onTake} />
      ))}
    </div>
  );
}

interface WayProps extends Props {
  rule: ControlBench["rules"][number];
}

function Way({ rule, bench, plant, onTake }: WayProps) {
  const [terms, setTerms] = useState(rule.terms.includes("pi") ? "pi" : (rule.terms[0] ?? ""));
  const [tau, setTau] = useState("");
  const seconds = tau.trim() === "" ? null : Number(tau.replace(",", "."));
  const told = useQuery({
    queryKey: ["tuned", plant, rule.name, terms, seconds],
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 10_000,
    queryFn: () => tune(plant, rule.name, terms, seconds !== null && seconds > 0 ? seconds : null),
  });
  return (
    <article className="known-way">
      <h3>{rule.label}</h3>
      <p>{rule.for_what}</p>
      <div className="known-fields">
        <select
          className="form-select form-select-sm"
          aria-label={`Terms of ${rule.label}`}
          value={terms}
          onChange={(event) => setTerms(event.target.value)}
        >
          {rule.terms.map((one) => (
            <option key={one} value={one}>
              {bench.terms.find((word) => word.name === one)?.label ?? one}
            </option>
          ))}
        </select>
        {rule.name === "simc" && (
          <input
            className="form-control form-control-sm"
            aria-label="How fast it is to be, s"
            placeholder="τc, s: as the dead time"
            inputMode="decimal"
            value={tau}
            onChange={(event) => setTau(event.target.value)}
          />
        )}
      </div>
      {told.isError && <p className="field-problem">{problemOf(told.error).detail}</p>}
      {told.data && !told.isError && (
        <>
          <p className="known-gains">
            P {figure(told.data.kp)} · I {figure(told.data.ki)} · D {figure(told.data.kd)}
          </p>
          <p className="quiet known-working">
            {told.data.working.map((one) => `${one.what}: ${one.value === null ? "∞" : figure(one.value)}`).join(" · ")}
          </p>
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => onTake({ kp: told.data.kp, ki: told.data.ki, kd: told.data.kd })}
          >
            Take these
          </Button>
        </>
      )}
      <p className="quiet known-source">{rule.source}</p>
    </article>
  );
}

const figure = (value: number) => Number(value.toPrecision(3));
