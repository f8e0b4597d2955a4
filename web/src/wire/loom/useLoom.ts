import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Wiring } from "../queries";
import { layOut } from "./layout";
import { loomModel } from "./model";

/** The model of the loom and, once worked out, the layout; while a new one is worked out, the last. */
export function useLoom(wiring: Wiring) {
  const model = useMemo(() => loomModel(wiring), [wiring]);
  const shape = JSON.stringify([
    model.threads.map((thread) => [thread.id, thread.to, thread.beads.map((bead) => bead.kind)]),
    model.tabs.map((tab) => [tab.id, tab.rail, tab.beads.length]),
    model.loose.map((one) => one.id),
    model.dots,
    model.tags.map((tag) => [tag.key, tag.words, tag.legs]),
    model.pins,
  ]);
  const layout = useQuery({
    queryKey: ["loom layout", wiring.rig_id, shape],
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: async () => ({ shape, model, layout: await layOut(model) }),
  });
  // The words and findings of now, on the layout that fits them; else those the layout was made of.
  const data = layout.data && (layout.data.shape === shape ? { ...layout.data, model } : layout.data);
  return { model, layout: { ...layout, data } };
}
