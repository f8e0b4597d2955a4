import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";
import { usePaced } from "../api/paced";

export type ControlBench = Schemas["ControlBenchOut"];
export type PlantKind = Schemas["PlantKindOut"];
export type Runs = Schemas["RunsOut"];
export type RunOut = Schemas["RunOut"];
export type Values = Record<string, number | string | boolean | number[] | null>;

/** A plant with its numbers, and what stands around the controller. */
export interface Plant {
  plant: string;
  plant_inputs: Values;
  rig_inputs: Values;
}

const of = (rigId: number) => ({ params: { path: { rig_id: rigId } } });

export function useControlBench(rigId: number) {
  return useQuery({
    queryKey: ["control", rigId],
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/control", of(rigId))),
  });
}

/** All settings on one plant; the last runs stay until the next have come. */
export function useRuns(plant: Plant, settings: Values[], seed: number) {
  const { asked, next } = usePaced({ ...plant, settings, seed, points: 700 }, plant.plant);
  const runs = useQuery({
    queryKey: ["loop-runs", asked],
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: false,
    structuralSharing: false,
    queryFn: ({ signal }) => body(client.POST("/api/control/run", { body: asked, signal })),
  });
  next(runs.isFetching);
  return runs;
}

export const advise = (plant: Plant, settings: Values, stage: string) =>
  body(client.POST("/api/control/advise", { body: { ...plant, settings, stage } }));

export const tune = (plant: Plant, rule: string, terms: string, tau_c_s: number | null) =>
  body(client.POST("/api/control/tune", { body: { ...plant, rule, terms, ...(tau_c_s === null ? {} : { tau_c_s }) } }));

export interface Columns {
  take_id: number;
  measured: number;
  output: number;
  wanted?: number | null;
}

export function useStepFit(rigId: number, columns: Columns | null, model: string) {
  return useQuery({
    queryKey: ["step-fit", rigId, columns, model],
    enabled: columns !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: ({ signal }) =>
      body(
        client.POST("/api/rigs/{rig_id}/control/fit", {
          ...of(rigId),
          body: { ...(columns as Columns), model },
          signal,
        }),
      ),
  });
}

export function useReadLoop(rigId: number, columns: Columns | null) {
  return useQuery({
    queryKey: ["read-loop", rigId, columns],
    enabled: columns !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: ({ signal }) =>
      body(client.POST("/api/rigs/{rig_id}/control/read", { ...of(rigId), body: columns as Columns, signal })),
  });
}
