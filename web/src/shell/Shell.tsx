import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import type { Rig } from "../api/queries";
import { KeysHelp } from "./KeysHelp";
import { Trail } from "./Trail";
import { useKey } from "./keys";
import { usePreferences } from "./preferences";
import { useTrailRig } from "./trailRig";

interface Props {
  /** The page's rig; undefined while it loads or when the page has none of its own, null when it is about all. */
  rig: Rig | null | undefined;
  sensorId?: number;
  stage?: string;
  children: ReactNode;
}

/** Trail on the left, work on the right, and the keys that work everywhere. */
export function Shell({ rig: own, sensorId, stage, children }: Props) {
  const rig = useTrailRig(own);
  const [keys, setKeys] = useState(false);
  const [preferences, set] = usePreferences();
  const navigate = useNavigate();
  useKey("?", () => setKeys(true));
  useKey("d", () => set({ theme: preferences.theme === "paper" ? "slate" : "paper" }));
  useKey("h", rig ? () => void navigate(`/rigs/${rig.id}`) : null);
  useKey("w", rig ? () => void navigate(`/rigs/${rig.id}/wire/plan`) : null);
  useKey("l", rig ? () => void navigate(`/rigs/${rig.id}/line`) : null);
  const next = rig?.next;
  useKey("n", next ? () => void navigate(`/sensors/${next.sensor_id}/${next.stage}`) : null);
  return (
    <div className="shell">
      <a className="skip" href="#work">
        Skip to the work
      </a>
      <Trail rig={rig} sensorId={sensorId} stage={stage} onKeys={() => setKeys(true)} />
      <main id="work" className="work" tabIndex={-1}>
        {children}
      </main>
      <KeysHelp show={keys} onHide={() => setKeys(false)} />
    </div>
  );
}
