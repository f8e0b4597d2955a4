import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { Kept } from "../rules/queries";
import { day } from "../units/dates";

interface Props {
  kept: Kept[];
  /** Whether its setting may stand beside those on the bench. */
  canStandBeside: (one: Kept) => boolean;
  onOpen: (one: Kept) => void;
  onBeside: (one: Kept) => void;
  onGoBack: (one: Kept) => void;
}

/** Controllers kept before: opened, put beside what is on the bench, or gone by again. */
export function KeptControllers({ kept, canStandBeside, onOpen, onBeside, onGoBack }: Props) {
  const [chosenId, setChosenId] = useState<number | null>(null);
  const chosen = kept.find((one) => one.id === chosenId);
  if (kept.length === 0) return null;
  const done = (deed: (one: Kept) => void) => () => {
    if (chosen) deed(chosen);
    setChosenId(null);
  };
  return (
    <>
      <select
        className="form-select form-select-sm kept-choice"
        aria-label="Kept controllers"
        value={chosenId ?? ""}
        onChange={(event) => setChosenId(Number(event.target.value) || null)}
      >
        <option value="">kept before…</option>
        {kept.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}, {day(one.made_at)}
            {one.note ? `: ${one.note}` : ""}
            {one.is_in_use ? " (in use)" : ""}
          </option>
        ))}
      </select>
      {chosen && (
        <>
          <Button size="sm" variant="outline-primary" onClick={done(onOpen)}>
            Open it
          </Button>
          {canStandBeside(chosen) && (
            <Button size="sm" variant="outline-primary" onClick={done(onBeside)}>
              Put it beside
            </Button>
          )}
          {!chosen.is_in_use && (
            <Button size="sm" variant="outline-primary" onClick={done(onGoBack)}>
              Go by it again
            </Button>
          )}
        </>
      )}
    </>
  );
}
