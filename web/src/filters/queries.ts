import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";

export type Comparison = Schemas["ComparisonOut"];
export type Filtered = Schemas["FilteredOut"];
export type FilterKind = Schemas["FilterKindOut"];

/** What is filtered: a lane of a sensor's output, or a channel of a recording as it came. */
export type Source = { recordingId: number; output: string; lane: number } | { takeId: number; channel: number };

/** A filter in a row. */
export interface Asked {
  words: string;
  is_hindsight: boolean;
}

export function useFilterKinds() {
  return useQuery({ queryKey: ["filters"], staleTime: Infinity, queryFn: () => body(client.GET("/api/filters")) });
}

/** Filters side by side; the last comparison stays until the next has come. */
export function useComparison(source: Source | null, filters: Asked[], speed: number) {
  return useQuery({
    queryKey: ["comparison", source, filters, speed],
    enabled: source !== null,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: false,
    structuralSharing: false,
    queryFn: ({ signal }) => {
      const asked = { filters, speed_m_per_s: speed };
      if (source && "takeId" in source) {
        const path = { take_id: source.takeId, number: source.channel };
        return body(
          client.POST("/api/takes/{take_id}/channels/{number}/filters", { params: { path }, body: asked, signal }),
        );
      }
      const from = source ?? { recordingId: 0, output: "", lane: 0 };
      const path = { recording_id: from.recordingId };
      return body(
        client.POST("/api/recordings/{recording_id}/filters", {
          params: { path },
          body: { ...asked, output: from.output, lane: from.lane },
          signal,
        }),
      );
    },
  });
}
