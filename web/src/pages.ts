import { lazy, type ComponentType } from "react";
import { matchPath } from "react-router";

interface Module {
  default: ComponentType;
}

function at(path: string, load: () => Promise<Module>) {
  let loaded: Module | undefined;
  const loadOnce = async () => (loaded = await load());
  // What is there already is handed over at once; a real promise would have React draw the stand-in.
  const handOver = () =>
    loaded ? ({ then: (take: (module: Module) => void) => take(loaded as Module) } as Promise<Module>) : loadOnce();
  return { path, load: loadOnce, Page: lazy(handOver) };
}

/** The pages beside the trail that are loaded when they are gone to, and where each is. */
export const trailPages = [
  at("/rigs/:rigId/wire/:view", () => import("./wire/WirePage")),
  at("/rigs/:rigId/program/:view?", () => import("./programs/ProgramPage")),
  at("/rigs/:rigId/line", () => import("./line/LinePage")),
  at("/rigs/:rigId/rules", () => import("./rules/RulesPage")),
  at("/rigs/:rigId/control", () => import("./control/ControlPage")),
  at("/rigs/:rigId/recordings", () => import("./takes/TakeListPage")),
  at("/rigs/:rigId/recordings/:takeId/filters/:channel", () => import("./filters/FiltersPage")),
  at("/rigs/:rigId/recordings/:takeId", () => import("./takes/TakePage")),
  at("/parts/:bench?", () => import("./parts/PartsPage")),
  at("/families/:kind/:name?", () => import("./families/FamiliesPage")),
  at("/sensors/:sensorId/studies/:studyId?", () => import("./studies/StudiesPage")),
  at("/sensors/:sensorId/filters", () => import("./filters/FiltersPage")),
  at("/sensors/:sensorId/:stage", () => import("./bench/BenchPage")),
];

/** The page for paper, which has no trail. */
export const sheet = at("/rigs/:rigId/sheet", () => import("./wire/SheetPage"));

/**
 * Loads the page at an address before anything is drawn: React holds back what follows a stand-in
 * for 300 ms, so the first page is drawn without one.
 */
export async function loadPageAt(address: string): Promise<void> {
  const here = [...trailPages, sheet].find(({ path }) => matchPath(path, address));
  await here?.load().catch(() => undefined); // it is tried again, and told, when it is drawn
}
