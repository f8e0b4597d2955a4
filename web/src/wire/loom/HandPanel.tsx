import Button from "react-bootstrap/Button";
import { BEAD_KINDS } from "../plan/BeadEditor";
import { type Wiring, circuitOf, useTrial } from "../queries";
import { Verdict, Volts } from "./Verdict";
import { ledTo } from "./leading";
import type { LoomModel } from "./model";
import { type InHand, inHand, targetsFor } from "./targets";
import type { Hand } from "./useHand";

/** What is in hand, where it would go, and what would come of that. */
export function HandPanel({
  wiring,
  model,
  hand,
  onPutBack,
}: {
  wiring: Wiring;
  model: LoomModel;
  hand: Hand;
  onPutBack: () => void;
}) {
  const held = hand.what === "end" ? inHand(wiring, hand.id) : undefined;
  const target = held && targetsFor(wiring, model, held).find((one) => one.place === hand.target);
  const part = hand.what === "part" ? BEAD_KINDS.find((one) => one.kind === hand.kind)?.label : "";
  const name = held?.name ?? part ?? "";
  const onto = hand.what === "part" ? hand.target && inHand(wiring, hand.target)?.name : target?.words;
  return (
    <div className="loom-panel" role="status">
      <p>
        <b>{name}</b> in hand{onto ? <>: {onto}</> : "."}
      </p>
      {held && target && <WouldBe wiring={wiring} held={held} place={target.place} />}
      {!onto && (
        <p className="loom-small">
          {hand.what === "end"
            ? "Drop it on a pin, a band, a joint or another thread. By keys: arrows, then Enter."
            : "Drop it on a thread. By keys: choose the thread first, then the part."}
        </p>
      )}
      <Button size="sm" variant="link" className="loom-back" onClick={onPutBack}>
        Put it back (Esc)
      </Button>
    </div>
  );
}

/** What the checks would say, and the volts, were it led there. */
function WouldBe({ wiring, held, place }: { wiring: Wiring; held: InHand; place: string }) {
  const isSame = held.to === place;
  const trial = useTrial(wiring, `${held.id} to ${place}`, () => ledTo(circuitOf(wiring), held, place), !isSame);
  if (isSame) return <p className="loom-small">It is there now.</p>;
  if (trial.isError) return <p className="loom-small">{trial.error.message}</p>;
  if (!trial.data) return <p className="loom-small quiet">Working it out …</p>;
  const { fresh, gone, pins } = trial.data;
  return (
    <>
      <Verdict findings={fresh} none={gone.length ? `Mends: ${gone[0] ?? ""}` : "Nothing new stands against that."} />
      <Volts pins={pins} place={place} />
    </>
  );
}
