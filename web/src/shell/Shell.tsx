import { Suspense, useState } from "react";
import { Outlet, useNavigate } from "react-router";
import { KeysHelp } from "./KeysHelp";
import { Skeleton } from "./States";
import { Trail } from "./Trail";
import { useKey } from "./keys";
import { usePreferences } from "./preferences";
import { usePlace } from "./usePlace";

/** Trail on the left, the page in hand on the right, and the keys that work everywhere. */
export function Shell() {
  const place = usePlace();
  const { rig } = place;
  const [keys, setKeys] = useState(false);
  const [preferences, set] = usePreferences();
  const navigate = useNavigate();
  useKey("?", () => setKeys(true));
  useKey("d", () => set({ theme: preferences.theme === "paper" ? "slate" : "paper" }));
  useKey("h", rig ? () => void navigate(`/rigs/${rig.id}`) : null);
  useKey("w", rig ? () => void navigate(`/rigs/${rig.id}/wire/plan`) : null);
  useKey("o", rig ? () => void navigate(`/rigs/${rig.id}/program/listen`) : null);
  useKey("l", rig ? () => void navigate(`/rigs/${rig.id}/line`) : null);
  useKey("s", rig ? () => void navigate(`/rigs/${rig.id}/rules`) : null);
  useKey("p", rig ? () => void navigate(`/rigs/${rig.id}/control`) : null);
  const next = rig?.next;
  useKey("n", next ? () => void navigate(`/sensors/${next.sensor_id}/${next.stage}`) : null);
  return (
    <div className="shell">
      <a className="skip" href="#work">
        Skip to the work
      </a>
      <Trail place={place} onKeys={() => setKeys(true)} />
      <main id="work" className="work" tabIndex={-1}>
        <Suspense
          fallback={
            <div className="page">
              <Skeleton lines={9} />
            </div>
          }
        >
          <Outlet />
        </Suspense>
      </main>
      <KeysHelp show={keys} onHide={() => setKeys(false)} />
    </div>
  );
}
