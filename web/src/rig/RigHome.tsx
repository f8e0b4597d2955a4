import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useParams } from "react-router";
import { useRig } from "../api/queries";
import { Over } from "../shell/Over";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { StoneMark } from "../stones/StoneMark";
import { StoneLegend } from "../stones/StoneLegend";
import { StoneTable } from "../stones/StoneTable";
import { quantityText, useUnits } from "../units/units";
import { ConditionsForm } from "./ConditionsForm";
import { RigDetails } from "./RigDetails";
import { NEXT_WORDS } from "./nextWords";

/** A rig's home: what to do next, and every stone. */
export function RigHome() {
  const rigId = Number(useParams()["rigId"]);
  const rig = useRig(rigId);
  const units = useUnits();
  const [open, setOpen] = useState<"conditions" | "details" | null>(null);
  const data = rig.data;
  return (
    <div className="page">
      {rig.isPending && <Skeleton lines={9} />}
      {rig.isError && <Trouble error={rig.error} retry={() => void rig.refetch()} />}
      {data && (
        <>
          <header className="page-head">
            <div>
              <h1>{data.name}, stone by stone</h1>
              <p className="figures">
                <span>
                  air <b>{quantityText(units, "temperature", data.air.temperature_c, 1)}</b> ·{" "}
                  {Math.round(data.air.relative_humidity * 100)} % RH
                </span>
                <span>
                  <b>{data.ticked}</b> of {data.stones} hold
                </span>
                {data.description && <span>{data.description}</span>}
              </p>
            </div>
            <div className="page-actions">
              <Button
                variant="outline-primary"
                aria-expanded={open === "conditions"}
                onClick={() => setOpen(open === "conditions" ? null : "conditions")}
              >
                Change the air
              </Button>
              <Button
                variant="outline-primary"
                aria-expanded={open === "details"}
                onClick={() => setOpen(open === "details" ? null : "details")}
              >
                The rig
              </Button>
              <Link className="btn btn-outline-primary" to={`/rigs/${data.id}/wire/plan`}>
                Wiring <kbd>W</kbd>
              </Link>
              <Link className="btn btn-outline-primary" to={`/rigs/${data.id}/line`}>
                Line <kbd>L</kbd>
              </Link>
            </div>
          </header>
          <Over>
            {open === "details" && <RigDetails key={`${data.name} ${data.description}`} rig={data} />}
            {open === "conditions" && <ConditionsForm rig={data} onDone={() => setOpen(null)} />}
          </Over>
          {data.trouble && (
            <p className="bench-note warning" role="alert">
              {data.trouble} Its recordings and wires are kept. Correct the value that is named, or bring the rig in
              anew from its zip.
            </p>
          )}
          {data.cracked.map((one) => (
            <p key={one.name} className="bench-note warning">
              <b>{one.name}</b> cracked: {one.says}{" "}
              <Link to={`/rigs/${data.id}/${one.is_rules ? "rules" : "control"}`}>Look at it</Link>
            </p>
          ))}
          {data.next && (
            <section className={`next next-${data.next.state}`} aria-label="Next stone">
              <StoneMark state={data.next.state} size={42} />
              <div>
                <h2>
                  Next: {NEXT_WORDS[data.next.state][data.next.stage]} {data.next.sensor_name}.
                </h2>
                <p>{data.next.reason}</p>
              </div>
              <Link className="btn btn-primary" to={`/sensors/${data.next.sensor_id}/${data.next.stage}`}>
                Open <kbd>N</kbd>
              </Link>
            </section>
          )}
          {!data.next && data.sensors.length > 0 && (
            <section className="next next-ticked">
              <StoneMark state="ticked" size={42} />
              <div>
                <h2>Every stone holds.</h2>
                <p>Come back when light, height, air or wiring has changed.</p>
              </div>
            </section>
          )}
          {data.sensors.length === 0 ? (
            <Empty title="No sensor on this rig yet.">
              <p>Choose its board and add what is wired to it: by kind, or by the labels printed beside the pins.</p>
              <Link className="btn btn-primary" to={`/rigs/${data.id}/wire/plan`}>
                Wire it up
              </Link>
            </Empty>
          ) : (
            <>
              <StoneTable rig={data} />
              <StoneLegend />
            </>
          )}
        </>
      )}
    </div>
  );
}
