import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";

/** Asks how far the server is with a file while it reads; `onDone` once it is in. */
export function useReading<T extends { state: string }>(
  key: string[],
  isReading: boolean,
  ask: () => Promise<T>,
  onDone: (state: T) => void,
): T | undefined {
  const progress = useQuery({
    queryKey: key,
    enabled: isReading,
    refetchInterval: (query) => (query.state.data?.state === "reading" || !query.state.data ? 250 : false),
    queryFn: ask,
    gcTime: 0,
  });
  const state = isReading ? progress.data : undefined;
  useEffect(() => {
    if (state?.state === "done") onDone(state as T);
  }, [state, onDone]);
  return state as T | undefined;
}
