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

export function useOpenLine(rigId: number) {
  return useQuery({
    queryKey: ["line", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/line", { params: { path: { rig_id: rigId } } })),
  });
}
