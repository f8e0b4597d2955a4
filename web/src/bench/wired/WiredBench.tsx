import type { Sensor } from "../../api/queries";
import { usePreferences } from "../../shell/preferences";
import { Skeleton, Trouble } from "../../shell/States";
import { WiringFindings } from "../../wire/WiringFindings";
import { StoneMark } from "../../stones/StoneMark";
import { LeadTable } from "../../wire/plan/LeadTable";
import { useWiring } from "../../wire/queries";
import { BenchHead } from "../BenchHead";
import { SignTable } from "../signoff/SignTable";
import { OwnSteps } from "./OwnSteps";
import { SensorDetails } from "./SensorDetails";
import { WithoutBoard } from "./WithoutBoard";
import { WrongNote } from "./WrongNote";

/** Wired: one sensor's leads, what is wrong with them, and its part of the wiring list. */
export function WiredBench({ sensor }: { sensor: Sensor }) {
  const [preferences, setPreferences] = usePreferences();
  const wiring = useWiring(sensor.rig_id);
  const device = wiring.data?.devices.find((one) => one.id === sensor.id);
  const stone = sensor.stones.find((one) => one.stage === "wired");
  const isOpen = preferences.findings === "open";
  if (stone?.state === "absent")
    return (
      <div className="bench-page wire-page">
        <BenchHead sensor={sensor} stage="wired" />
        <div className="bench-body findings-none">
          <section className="bench wired-bench" aria-label="wired bench">
            <p className="bench-note">{stone.reason}</p>
            <SensorDetails key={`${sensor.name} ${sensor.place}`} sensor={sensor} />
          </section>
        </div>
      </div>
    );
  return (
    <div className="bench-page wire-page">
      <BenchHead sensor={sensor} stage="wired" />
      <div className={`bench-body ${wiring.data?.board ? `findings-${preferences.findings}` : "findings-none"}`}>
        <section className="bench wired-bench" aria-label="wired bench">
          {wiring.isPending && <Skeleton lines={8} />}
          {wiring.isError && <Trouble error={wiring.error} retry={() => void wiring.refetch()} />}
          {wiring.data && !wiring.data.board && <WithoutBoard sensor={sensor} />}
          {wiring.data?.board && device && (
            <>
              {(device.wired.state === "stale" || device.wired.state === "failing") && (
                <p className={`bench-note stone-why is-${device.wired.state}`} role="status">
                  <StoneMark state={device.wired.state} size={22} /> {device.wired.reason}
                </p>
              )}
              <section
                className={`device-card ${device.wired.state === "failing" ? "has-errors" : ""}`}
                aria-label="Its leads"
              >
                <LeadTable wiring={wiring.data} device={device} />
              </section>
              <OwnSteps wiring={wiring.data} device={device} />
              <WrongNote sensor={sensor} />
            </>
          )}
          <SensorDetails key={`${sensor.name} ${sensor.place}`} sensor={sensor} />
          <SignTable sensor={sensor} stage="wired" />
        </section>
        {wiring.data?.board && (
          <WiringFindings
            wiring={wiring.data}
            device={sensor.id}
            open={isOpen}
            onToggle={() => setPreferences({ findings: isOpen ? "closed" : "open" })}
          />
        )}
      </div>
    </div>
  );
}
