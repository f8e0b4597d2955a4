import { useState } from "react";

/**
 * Asks one thing at a time: what is wanted next waits until there is an answer to what was asked before. So
 * answers come while a hand still moves, and the server is never asked what nobody waits for.
 * Call `next` after the query, with whether it is under way. Of another subject nobody waits for the old answer.
 */
export function usePaced<Request>(wanted: Request, subject: unknown) {
  const [before, setBefore] = useState({ asked: wanted, subject });
  const isSame = JSON.stringify(before.asked) === JSON.stringify(wanted);
  const asked = before.subject === subject ? before.asked : wanted;
  return {
    asked,
    isSame,
    next: (isBusy: boolean) => {
      if (before.subject !== subject || (!isBusy && !isSame)) setBefore({ asked: wanted, subject });
    },
  };
}
