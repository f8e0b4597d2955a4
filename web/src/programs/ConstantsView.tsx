import { Skeleton, Trouble } from "../shell/States";
import { Listing } from "./Listing";
import { type Constant, useConstants } from "./queries";

const SUFFIXES: Record<string, string> = { cpp: "h", "small-python": "py", json: "json" };

/** What the calibrations and settings in use come to: to be read, and to be taken as code. */
export function ConstantsView({ rigId }: { rigId: number }) {
  const constants = useConstants(rigId);
  if (constants.isPending) return <Skeleton lines={9} />;
  if (constants.isError) return <Trouble error={constants.error} retry={() => void constants.refetch()} />;
  return (
    <div className="program-body constants-body">
      <section className="program-side" aria-label="Constants">
        <p>
          Constants <b className="figure">{constants.data.identity}</b>: what a program for the board has in it now.
          Another calibration, setting or rule makes another identity.
        </p>
        {constants.data.sensors.map((sensor) => (
          <div key={sensor.label}>
            <h2>{sensor.label}</h2>
            <dl className="constant-list">
              {sensor.constants.map((one) => (
                <div key={one.name}>
                  <dt>
                    {one.name.replaceAll("_", " ")}
                    <span className="quiet">{one.rests_on}</span>
                  </dt>
                  <dd className="figure">{said(one)}</dd>
                </div>
              ))}
            </dl>
            {sensor.constants.length === 0 && <p className="quiet">None: nothing of it is set or calibrated.</p>}
          </div>
        ))}
      </section>
      <Listing
        files={constants.data.texts.map((one) => ({ path: `constants.${SUFFIXES[one.name]}`, text: one.text }))}
      />
    </div>
  );
}

/** A value with its ± and unit; as many digits as the ± lets stand. */
function said({ value, u, unit }: Constant): string {
  const decimals = u ? Math.max(0, 1 - Math.floor(Math.log10(u))) : null;
  const number = decimals === null ? Number(value.toPrecision(6)).toString() : value.toFixed(Math.min(decimals, 12));
  const doubt = u && decimals !== null ? ` ± ${u.toFixed(Math.min(decimals, 12))}` : "";
  return `${number}${doubt} ${unit}`.trim();
}
