import { useQuery } from "@tanstack/react-query";
import { body, client } from "../api/client";

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

/** The line of a rig; waits: until one is open it is asked for again every second. */
export function useOpenLine(rigId: number, waits = false) {
  return useQuery({
    refetchInterval: (query) => (waits && !query.state.data ? 1_000 : false),
    ...(waits && { staleTime: 0, retry: false }),
    queryKey: ["line", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/line", { params: { path: { rig_id: rigId } } })),
  });
}
