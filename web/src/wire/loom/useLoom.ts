import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Wiring } from "../queries";
import { layOut } from "./layout";
import { loomModel } from "./model";

/** The model of the loom and, once worked out, its layout. */
export function useLoom(wiring: Wiring) {
  const model = useMemo(() => loomModel(wiring), [wiring]);
  const shape = JSON.stringify([
    model.threads.map((thread) => [thread.id, thread.to, thread.beads.length]),
    model.tabs.map((tab) => tab.id),
    model.pins,
  ]);
  const layout = useQuery({
    queryKey: ["loom layout", shape],
    staleTime: Infinity,
    queryFn: () => layOut(model),
  });
  return { model, layout };
}
