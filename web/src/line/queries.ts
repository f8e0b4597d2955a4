import { useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";

export function usePorts(isWanted: boolean) {
  return useQuery({
    queryKey: ["ports"],
    enabled: isWanted,
    refetchInterval: isWanted ? 2_000 : false,
    queryFn: () => body(client.GET("/api/ports")),
  });
}

export function useBoards() {
  return useQuery({ queryKey: ["boards"], queryFn: () => body(client.GET("/api/boards")) });
}

/** Whether a line is open and its lines are made out, so that sensors can be read from it. */
export const isHeard = (line: Schemas["LineOut"] | null | undefined) =>
  Boolean(line && line.state !== "ended" && line.shape !== null);

/** The line of a rig; waits: until one is open and made out it is asked for again every second. */
export function useOpenLine(rigId: number, waits = false) {
  return useQuery({
    refetchInterval: (query) => (waits && !isHeard(query.state.data) ? 1_000 : false),
    ...(waits && { staleTime: 0, retry: false }),
    queryKey: ["line", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/line", { params: { path: { rig_id: rigId } } })),
  });
}
