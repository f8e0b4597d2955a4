import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useQuery, keepPreviousData } from "@tanstack/react-query";
import { Trouble } from "../shell/States";
import { type ControlBench, type Plant, type Values, advise } from "./queries";

interface Props {
  plant: Plant;
  settings: Values;
  stages: ControlBench["stages"];
  onTry: (gains: Values) => void;
}

/** P up to the edge, back off, I until nothing is left, D to brake: what to do next, and what to watch. */
export function ByHand({ plant, settings, stages, onTry }: Props) {
  const [stage, setStage] = useState("p");
  const told = useQuery({
    queryKey: ["advice", plant, settings, stage],
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 10_000,
    queryFn: () => advise(plant, settings, stage),
  });
  const place = stages.findIndex((one) => one.name === stage);
  return (
    <section className="by-hand" aria-label="By hand">
      <ol>
        {stages.map((one, n) => (
          <li key={one.name} className={n === place ? "is-current" : n < place ? "is-past" : ""}>
            <button type="button" aria-pressed={n === place} onClick={() => setStage(one.name)}>
              {one.label}
            </button>
          </li>
        ))}
      </ol>
      {told.isError && <Trouble error={told.error} />}
      {told.data && (
        <div className="advice" aria-live="polite">
          <p>
            {told.data.says} <b>{told.data.do}</b>
          </p>
          <p className="quiet">Watch: {told.data.watch}</p>
          <div className="panel-actions">
            {told.data.settings && (
              <Button
                size="sm"
                onClick={() => {
                  onTry(told.data.settings as Values);
                  setStage(told.data.stage);
                }}
              >
                Try P {figure(told.data.settings["kp"])}, I {figure(told.data.settings["ki"])}, D{" "}
                {figure(told.data.settings["kd"])}
              </Button>
            )}
            {stage !== "p" && (
              <Button
                size="sm"
                variant="outline-primary"
                onClick={() => {
                  setStage("p");
                  onTry({ ki: 0, kd: 0 });
                }}
              >
                Begin again with P alone
              </Button>
            )}
          </div>
        </div>
      )}
    </section>
  );
}

const figure = (value: unknown) => Number(Number(value ?? 0).toPrecision(3));
