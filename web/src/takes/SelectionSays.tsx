import { type Wanted, useSelection } from "./queries";
import { selectionSays } from "./selectionSays";

interface Props {
  takeId: number;
  wanted: Wanted | null;
  name: string;
  isPulse: boolean;
  span: [number, number] | null;
}

/** What lies between A and B, in a sentence; its place is kept when nothing is selected. */
export function SelectionSays({ takeId, wanted, name, isPulse, span }: Props) {
  const selection = useSelection(takeId, wanted, span);
  const found = selection.data;
  if (!span)
    return (
      <p className="selection-says quiet">
        Hold <kbd>Shift</kbd> and drag over a plot, or press <b>Select</b>: what lies there is told here.
      </p>
    );
  return (
    <p className="selection-says" role="status">
      {found && found.n > 0 ? (
        <>
          <b>
            {name}
            {wanted?.stage && `, ${wanted.stage.replaceAll("_", " ")}`}
          </b>
          : {selectionSays(found, span[1] - span[0], isPulse)}
        </>
      ) : found ? (
        `No sample of ${name} lies there.`
      ) : selection.isError ? (
        "It could not be measured; why stands with the figures."
      ) : (
        "Measuring…"
      )}
    </p>
  );
}
