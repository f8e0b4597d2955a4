import { useEffect } from "react";
import { matchPath, useLocation } from "react-router";
import { type Rig, useRig, useSensor } from "../api/queries";

/** Where on the trail the page at this address is. */
export interface Place {
  /** The rig to show; undefined on pages about all rigs, and until one is known. */
  rig: Rig | undefined;
  sensorId: number | undefined;
  stage: string | undefined;
}

const KEY = "tickstone-rig";

/**
 * The place of the page on the trail, told from the address. While the rig of a sensor is not known yet, and
 * on pages of no rig, it is the rig before, so that nothing on the trail comes and goes.
 */
export function usePlace(): Place {
  const { pathname } = useLocation();
  const bench = matchPath("/sensors/:sensorId/:stage/*", pathname)?.params;
  const sensorId = Number(bench?.sensorId) || undefined;
  const sensor = useSensor(sensorId ?? 0);
  const own = Number(matchPath("/rigs/:rigId/*", pathname)?.params.rigId) || sensor.data?.rig_id;
  const isAboutAll = ["/", "/rigs"].some((path) => matchPath(path, pathname));
  const rig = useRig(own ?? 0).data;
  const before = useRig(isAboutAll || rig ? 0 : remembered()).data;
  useEffect(() => {
    if (rig) remember(rig.id);
  }, [rig]);
  return { rig: isAboutAll ? undefined : (rig ?? before), sensorId, stage: bench?.stage ?? stageOf(pathname) };
}

function stageOf(pathname: string): string | undefined {
  if (matchPath("/rigs/:rigId/wire/*", pathname)) return "wire";
  if (matchPath("/rigs/:rigId/line", pathname) || matchPath("/rigs/:rigId/recordings/*", pathname)) return "line";
  if (matchPath("/rigs/:rigId/program/*", pathname)) return "program";
  if (matchPath("/rigs/:rigId/rules", pathname)) return "rules";
  if (matchPath("/rigs/:rigId/control", pathname)) return "control";
  return undefined;
}

function remembered(): number {
  try {
    return Number(sessionStorage.getItem(KEY)) || 0;
  } catch {
    return 0;
  }
}

function remember(id: number): void {
  try {
    sessionStorage.setItem(KEY, String(id));
  } catch {
    // Without it the trail fills a moment later.
  }
}
