import { useCallback } from "react";
import { useRefresh } from "../api/queries";
import { useNotices } from "./Notices";

/**
 * Does something that can be taken back: does it, says so and offers to undo it, goes elsewhere if
 * `then` says so, then has everything read anew. In that order, so that whoever sees the change can
 * undo it. Returns whether it was done.
 */
export function useDeed() {
  const notices = useNotices();
  const refresh = useRefresh();
  return useCallback(
    async <T>(
      act: () => Promise<T>,
      said: string | ((made: T) => string),
      undo?: (made: T) => Promise<unknown>,
      then?: (made: T) => unknown,
    ): Promise<boolean> => {
      try {
        const made = await act();
        notices.done(typeof said === "string" ? said : said(made), undo && (() => undo(made)));
        await then?.(made);
      } catch (error) {
        notices.failed(error);
        return false;
      }
      await refresh();
      return true;
    },
    [notices, refresh],
  );
}
