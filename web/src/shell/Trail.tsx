import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, NavLink, useLocation } from "react-router";
import type { Rig } from "../api/queries";
import { SensorStones } from "../stones/SensorStones";
import { StoneMark } from "../stones/StoneMark";
import { usePreferences } from "./preferences";
import type { Place } from "./usePlace";

interface Props {
  place: Place;
  onKeys: () => void;
}

function firstStage(sensor: Rig["sensors"][number]): string {
  return sensor.has_chain ? "heard" : "wired";
}

/** The narrow way on the left: rig, its sensors, and their stones. */
export function Trail({ place: { rig, sensorId, stage }, onKeys }: Props) {
  const [preferences, set] = usePreferences();
  const { pathname } = useLocation();
  const [openAt, setOpenAt] = useState<string | null>(null);
  const open = openAt === pathname; // gone to another page, the narrow trail is shut again
  return (
    <nav className={`trail ${open ? "is-open" : ""}`} aria-label="Rig and sensors">
      <div className="trail-head">
        <Link to="/rigs" className="brand">
          <StoneMark state="ticked" size={26} /> Tick Stone
        </Link>
        <Button
          className="trail-toggle"
          size="sm"
          variant="outline-primary"
          aria-expanded={open}
          onClick={() => setOpenAt(open ? null : pathname)}
        >
          {open ? "Close" : "Sensors"}
        </Button>
      </div>
      <div className="trail-body">
        {rig && (
          <>
            <NavLink to={`/rigs/${rig.id}`} end className="trail-rig">
              <strong>{rig.name}</strong>
              <span className="quiet">
                {rig.board_label || "no board yet"} · {rig.ticked} of {rig.stones} hold
              </span>
            </NavLink>
            <Link
              to={`/rigs/${rig.id}/wire/plan`}
              className={`trail-wire ${stage === "wire" ? "is-current" : ""}`}
              aria-current={stage === "wire" ? "page" : undefined}
            >
              Wiring <kbd>W</kbd>
            </Link>
            <Link
              to={`/rigs/${rig.id}/program/listen`}
              className={`trail-wire ${stage === "program" ? "is-current" : ""}`}
              aria-current={stage === "program" ? "page" : undefined}
            >
              Programs <kbd>O</kbd>
            </Link>
            <Link
              to={`/rigs/${rig.id}/line`}
              className={`trail-wire ${stage === "line" ? "is-current" : ""}`}
              aria-current={stage === "line" ? "page" : undefined}
            >
              Line <kbd>L</kbd>
            </Link>
            <Link
              to={`/rigs/${rig.id}/rules`}
              className={`trail-wire ${stage === "rules" ? "is-current" : ""}`}
              aria-current={stage === "rules" ? "page" : undefined}
            >
              Rules <kbd>S</kbd>
            </Link>
            <Link
              to={`/rigs/${rig.id}/control`}
              className={`trail-wire ${stage === "control" ? "is-current" : ""}`}
              aria-current={stage === "control" ? "page" : undefined}
            >
              Controllers <kbd>P</kbd>
            </Link>
            <ul className="trail-sensors">
              {rig.sensors.map((sensor) => (
                <li key={sensor.id}>
                  <Link
                    to={`/sensors/${sensor.id}/${sensor.id === sensorId && stage ? stage : firstStage(sensor)}`}
                    className={sensor.id === sensorId ? "is-current" : ""}
                    aria-current={sensor.id === sensorId ? "page" : undefined}
                  >
                    {sensor.name}
                    <SensorStones stones={sensor.stones} />
                  </Link>
                </li>
              ))}
            </ul>
          </>
        )}
        <ul className="trail-tools" aria-label="Besides">
          <li>
            <NavLink to="/parts">Parts sums</NavLink>
          </li>
          <li>
            <NavLink to="/families">Families</NavLink>
          </li>
        </ul>
      </div>
      <div className="trail-foot">
        <button type="button" onClick={onKeys}>
          <kbd>?</kbd> keys
        </button>
        <button
          type="button"
          className="units-switch"
          title="Change the units"
          onClick={() => set({ units: preferences.units === "metric" ? "imperial" : "metric" })}
        >
          <span className="visually-hidden">units: </span>
          <span className={preferences.units === "metric" ? "is-on" : "is-off"}>m °C</span>
          <span className="visually-hidden"> or </span>
          <span className={preferences.units === "metric" ? "is-off" : "is-on"}>in °F</span>
        </button>
        <button
          type="button"
          title="Change the colours"
          onClick={() => set({ theme: preferences.theme === "paper" ? "slate" : "paper" })}
        >
          <kbd>D</kbd> {preferences.theme === "paper" ? "dark" : "light"}
        </button>
      </div>
    </nav>
  );
}
