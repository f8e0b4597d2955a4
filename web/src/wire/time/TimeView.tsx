import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Form from "react-bootstrap/Form";
import { type Schemas, body, client } from "../../api/client";
import { Skeleton, Trouble } from "../../shell/States";
import { useDeed } from "../../shell/useDeed";
import { QuantityInput } from "../../units/QuantityInput";

type Budget = Schemas["TimeBudgetOut"];
type Program = Schemas["ProgramIn-Output"];

/** What a turn of the program costs, and what follows for the eyes of the rig. */
export function TimeView({ rigId }: { rigId: number }) {
  const budget = useQuery({
    queryKey: ["time budget", rigId],
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/time-budget", { params: { path: { rig_id: rigId } } })),
  });
  if (budget.isPending) return <Skeleton lines={8} />;
  if (budget.isError) return <Trouble error={budget.error} retry={() => void budget.refetch()} />;
  return <TimeSheet rigId={rigId} budget={budget.data} />;
}

function TimeSheet({ rigId, budget }: { rigId: number; budget: Budget }) {
  const [program, setProgram] = useState<Program>(budget.program);
  const queries = useQueryClient();
  const deed = useDeed();

  async function write(next: Program) {
    const said = await body(
      client.PUT("/api/rigs/{rig_id}/time-budget", { params: { path: { rig_id: rigId } }, body: next }),
    );
    queries.setQueryData(["time budget", rigId], said);
  }

  async function keep(next: Program) {
    const before = budget.program;
    if (JSON.stringify(next) === JSON.stringify(before)) return;
    const undo = () => {
      setProgram(before);
      return write(before);
    };
    if (!(await deed(() => write(next), "The program is noted.", undo))) setProgram(before);
  }

  const set = (change: Partial<Program>) => setProgram({ ...program, ...change });
  const most = Math.max(...budget.costs.map((cost) => cost.seconds), 1e-6);
  const faster = budget.other_way_s < budget.loop_s * 0.95;
  return (
    <div className="time-sheet">
      <section className="time-head" aria-label="Sum">
        <Figure label="one turn takes" value={milliseconds(budget.loop_s)} />
        <Figure label="turns a second" value={budget.rate_hz.toPrecision(3)} />
        <Figure label="longest unread" value={milliseconds(budget.blind_s)} />
        <Figure
          label="costs most"
          value={budget.bottleneck?.name ?? "–"}
          note={budget.bottleneck ? milliseconds(budget.bottleneck.seconds) : ""}
        />
      </section>
      <section aria-label="Program" className="panel" onBlur={() => void keep(program)}>
        <div className="fields">
          <QuantityInput
            label="Serial line"
            unit="baud"
            decimals={0}
            value={program.baud}
            onChange={(value) => value !== null && set({ baud: Math.round(value) })}
          />
          <QuantityInput
            label="Printed per turn"
            unit="letters"
            decimals={0}
            value={program.characters}
            onChange={(value) => value !== null && set({ characters: Math.round(value) })}
          />
          <QuantityInput
            label="Delays per turn"
            unit="ms"
            perUnit={0.001}
            decimals={1}
            value={program.delay_s}
            onChange={(value) => value !== null && set({ delay_s: value })}
          />
          <QuantityInput
            label="The rest"
            unit="ms"
            perUnit={0.001}
            decimals={2}
            value={program.other_s}
            onChange={(value) => value !== null && set({ other_s: value })}
          />
        </div>
        <div className="ways" role="radiogroup" aria-label="How it reads">
          <Form.Check
            type="radio"
            id="way-wait"
            label="waits for each reading"
            checked={!program.is_interleaved}
            onChange={() => way(false)}
          />
          <Form.Check
            type="radio"
            id="way-weave"
            label="starts readings and fetches them later"
            checked={program.is_interleaved}
            onChange={() => way(true)}
          />
          <span className="quiet">
            The other way one turn takes {milliseconds(budget.other_way_s)}
            {faster ? ": that is worth the work." : "."}
          </span>
        </div>
      </section>
      <section aria-label="Costs">
        <h2>Where the time goes</h2>
        <table className="costs">
          <thead>
            <tr>
              <th scope="col">what</th>
              <th scope="col">per turn</th>
              <th scope="col" className="figure">
                now
              </th>
              <th scope="col" className="figure">
                the other way
              </th>
              <th scope="col">source</th>
            </tr>
          </thead>
          <tbody>
            {budget.costs.map((cost) => (
              <tr key={cost.name + cost.what}>
                <th scope="row">
                  {cost.name} <span className="quiet">{cost.what}</span>
                </th>
                <td>
                  <span className="cost-bar" aria-hidden="true">
                    <span style={{ width: `${(100 * cost.seconds) / most}%` }} />
                  </span>
                </td>
                <td className="figure">{milliseconds(cost.seconds)}</td>
                <td className="figure quiet">{milliseconds(cost.other_way_s)}</td>
                <td className="quiet">{cost.source}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {budget.slots.length > 0 && (
        <section aria-label="Firing order">
          <h2>When rangers fire</h2>
          <ol className="slots">
            {budget.slots.map((slot) => (
              <li key={slot.join()}>{slot.join(" and ")}</li>
            ))}
          </ol>
          <p className="quiet">
            {budget.slots.length === 1
              ? "None of them hears another; they may fire together."
              : "One after the other, each with its quiet time, so that no echo is taken for another’s."}
          </p>
        </section>
      )}
      <section aria-label="How long each goes unread">
        <h2>From one reading to the next</h2>
        <ul className="periods">
          {budget.periods.map((period) => (
            <li key={period.device}>
              {period.device}: <b className="figure">{milliseconds(period.seconds)}</b>{" "}
              <span className="quiet">{period.why}</span>
            </li>
          ))}
        </ul>
        <p className="quiet">
          One turn goes into the stopping distance of every ranger on its Tune bench; so does the time between its
          readings, until a recording tells better.
        </p>
      </section>
    </div>
  );

  function way(isInterleaved: boolean) {
    const next = { ...program, is_interleaved: isInterleaved };
    setProgram(next);
    void keep(next);
  }
}

function Figure({ label, value, note = "" }: { label: string; value: string; note?: string }) {
  return (
    <p className="time-figure">
      <span className="quiet">{label}</span>
      <b>{value}</b>
      {note && <span className="quiet">{note}</span>}
    </p>
  );
}

function milliseconds(seconds: number): string {
  const value = seconds * 1000;
  return `${value >= 100 ? value.toFixed(0) : value >= 10 ? value.toFixed(1) : value.toFixed(2)} ms`;
}
