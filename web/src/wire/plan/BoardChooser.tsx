import { Link } from "react-router";
import { body, client } from "../../api/client";
import { useFamilies } from "../../families/queries";
import { useDeed } from "../../shell/useDeed";
import { Skeleton, Trouble } from "../../shell/States";

/** The board families, to choose one for a rig. */
export function BoardChooser({ rigId, chosen, onDone }: { rigId: number; chosen: string; onDone?: () => void }) {
  const families = useFamilies();
  const deed = useDeed();
  const put = (board: string) =>
    body(client.PATCH("/api/rigs/{rig_id}", { params: { path: { rig_id: rigId } }, body: { board } }));

  async function choose(board: string) {
    if (await deed(() => put(board), "The board is chosen.", chosen ? () => put(chosen) : undefined)) onDone?.();
  }

  if (families.isPending) return <Skeleton />;
  if (families.isError) return <Trouble error={families.error} retry={() => void families.refetch()} />;
  return (
    <>
      <ul className="board-cards">
        {families.data
          .filter((family) => family.kind === "board")
          .map((family) => (
            <li key={family.name}>
              <button
                type="button"
                className={family.name === chosen ? "is-chosen" : ""}
                aria-pressed={family.name === chosen}
                onClick={() => void choose(family.name)}
              >
                <strong>{family.label}</strong>
                {family.is_own && <span className="own">your own</span>}
                <span>{family.what}</span>
                <span className="quiet pins-line">{shortened(family.leads)}</span>
              </button>
            </li>
          ))}
      </ul>
      <p className="quiet">
        None of these? <Link to="/families/board">Describe your own board</Link>: clone the nearest one and change its
        figures.
      </p>
    </>
  );
}

function shortened(pins: string[]): string {
  return pins.length > 14
    ? `${pins.slice(0, 6).join(" ")} … ${pins.slice(-4).join(" ")} (${pins.length} pins)`
    : pins.join(" ");
}
