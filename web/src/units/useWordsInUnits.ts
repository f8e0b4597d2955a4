import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { readIn } from "../api/client";
import type { UnitSystem } from "./units";

/** Has the server's sentences in the units chosen here; those already read are asked for anew. */
export function useWordsInUnits(units: UnitSystem): void {
  const queries = useQueryClient();
  const before = useRef(units);
  // Before the first page asks for anything.
  useState(() => readIn(units));
  useEffect(() => {
    if (before.current === units) return;
    before.current = units;
    readIn(units);
    // What is under way was asked for in the units of before. A first answer is not asked for anew
    // while it is under way, so it is given up first.
    void queries.cancelQueries().then(() => queries.invalidateQueries());
  }, [queries, units]);
}
