import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";
import type { Rules } from "./rules";

export type RulesBench = Schemas["RulesBenchOut"];
export type Kept = Schemas["KeptOut"];
export type Checked = Schemas["CheckedOut"];
export type Replay = Schemas["ReplayOut"];
export type Version = Schemas["VersionOut"];
export type Visits = Schemas["VisitsOut"];
export type Trace = Schemas["TraceOut"];
export type Saw = Schemas["SawOut"];
export type Entered = Schemas["EnteredOut"];
export type Rate = Schemas["RateOut"];
export type Confusion = Schemas["ConfusionOut"];

/** A document as the client sends it. */
export const sent = (rules: Rules) => rules as unknown as Record<string, never>;

const of = (rigId: number) => ({ params: { path: { rig_id: rigId } } });

/** Goes by an earlier decision again. */
export const goBack = (rigId: number, decisionId: number) =>
  body(
    client.POST("/api/rigs/{rig_id}/decisions/{decision_id}/use", {
      params: { path: { rig_id: rigId, decision_id: decisionId } },
    }),
  );

export function useRulesBench(rigId: number) {
  return useQuery({
    queryKey: ["rules", rigId],
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/rules", of(rigId))),
  });
}

/** What is found amiss; the last answer stays while the next is on its way. */
export function useChecked(rigId: number, rules: Rules) {
  return useQuery({
    queryKey: ["rules-check", rigId, rules],
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 10_000,
    queryFn: ({ signal }) =>
      body(client.POST("/api/rigs/{rig_id}/rules/check", { ...of(rigId), body: { rules: sent(rules) }, signal })),
  });
}

export function useReplay(rigId: number, takeId: number, versions: Rules[], range: [number, number] | null) {
  return useQuery({
    queryKey: ["rules-replay", rigId, takeId, versions, range],
    enabled: takeId > 0,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 10_000,
    structuralSharing: false,
    queryFn: ({ signal }) =>
      body(
        client.POST("/api/rigs/{rig_id}/rules/replay", {
          ...of(rigId),
          body: {
            take_id: takeId,
            versions: versions.map(sent),
            restless_s: 0.3,
            ...(range ? { from_s: range[0], to_s: range[1] } : {}),
          },
          signal,
        }),
      ),
  });
}

/** What a version saw at a time; nothing while no time is in hand. */
export function useSaw(rigId: number, takeId: number, rules: Rules | null, atS: number | null) {
  return useQuery({
    queryKey: ["rules-saw", rigId, takeId, rules, atS],
    enabled: takeId > 0 && rules !== null && atS !== null,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 10_000,
    queryFn: ({ signal }) =>
      body(
        client.POST("/api/rigs/{rig_id}/rules/saw", {
          ...of(rigId),
          body: { take_id: takeId, rules: sent(rules as Rules), at_s: atS ?? 0 },
          signal,
        }),
      ),
  });
}

/** What rules make of the open line, four times a second. */
export function useLiveRules(rigId: number, rules: Rules, isOn: boolean) {
  return useQuery({
    queryKey: ["rules-live", rigId, rules],
    enabled: isOn,
    refetchInterval: 250,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 1_000,
    structuralSharing: false,
    queryFn: ({ signal }) =>
      body(client.POST("/api/rigs/{rig_id}/rules/live", { ...of(rigId), body: { rules: sent(rules) }, signal })),
  });
}
