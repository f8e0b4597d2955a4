import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { type Schemas, body, client } from "../api/client";
import { useUnits } from "../units/units";
import { markInUnits, selectionInUnits, seriesInUnits } from "./inUnits";

export type Take = Schemas["TakeOut"];
export type Series = Schemas["SeriesOut"];
export type TakeMark = Schemas["MarkOut"];

export function useTakes(rigId: number, search: string, tag: string, putAway: boolean) {
  return useQuery({
    queryKey: ["takes", rigId, search, tag, putAway],
    enabled: rigId > 0,
    placeholderData: keepPreviousData,
    queryFn: () =>
      body(
        client.GET("/api/rigs/{rig_id}/takes", {
          params: { path: { rig_id: rigId }, query: { search, tag, put_away: putAway } },
        }),
      ),
  });
}

const of = (takeId: number) => ({ params: { path: { take_id: takeId } } });

export function useTake(takeId: number) {
  return useQuery({
    queryKey: ["take", takeId],
    enabled: takeId > 0,
    queryFn: () => body(client.GET("/api/takes/{take_id}", of(takeId))),
  });
}

export function useTakeMarks(takeId: number) {
  const units = useUnits();
  return useQuery({
    select: (marks) => marks.map((mark) => markInUnits(units, mark)),
    queryKey: ["take-marks", takeId],
    queryFn: () => body(client.GET("/api/takes/{take_id}/marks", of(takeId))),
  });
}

export interface Wanted {
  channel: number;
  stage: string;
}

export function usePlot(takeId: number, channels: Wanted[], window: [number, number] | null, points: number) {
  const units = useUnits();
  return useQuery({
    select: useCallback(
      (plot: Schemas["PlotOut"]) => ({ ...plot, series: plot.series.map((one) => seriesInUnits(units, one)) }),
      [units],
    ),
    queryKey: ["plot", takeId, channels, window, points],
    enabled: channels.length > 0,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: false,
    queryFn: ({ signal }) =>
      body(
        client.POST("/api/takes/{take_id}/plot", {
          ...of(takeId),
          signal,
          body: { channels, points, from_s: window?.[0] ?? null, to_s: window?.[1] ?? null },
        }),
      ),
  });
}

export function useSelection(takeId: number, wanted: Wanted | null, span: [number, number] | null) {
  const units = useUnits();
  return useQuery({
    select: (found: Schemas["SelectionOut"]) => selectionInUnits(units, found, wanted?.stage ?? ""),
    queryKey: ["selection", takeId, wanted, span],
    enabled: wanted !== null && span !== null,
    retry: false,
    gcTime: 10_000,
    queryFn: ({ signal }) =>
      body(
        client.POST("/api/takes/{take_id}/selection", {
          ...of(takeId),
          signal,
          body: {
            channel: wanted?.channel ?? 0,
            stage: wanted?.stage ?? "",
            from_s: span?.[0] ?? 0,
            to_s: span?.[1] ?? 0,
          },
        }),
      ),
  });
}
