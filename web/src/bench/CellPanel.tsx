import type { Bench, Recording, Sensor, Step } from "../api/queries";
import { HOLDS_KEYS, usePanel } from "../shell/usePanel";
import { Budget } from "./Budget";
import { CellHow } from "./CellHow";
import { StageParameters } from "./StageParameters";
import { type Draft } from "./draft";

interface Props {
  step: Step;
  sensor: Sensor;
  bench: Bench;
  recording: Recording;
  draft: Draft;
  setDraft: (change: Partial<Draft>) => void;
  onClose: () => void;
}

/** What stands behind one cell: formula, numbers, source, budget, and its parameters. */
export function CellPanel({ step, sensor, bench, recording, draft, setDraft, onClose }: Props) {
  const panel = usePanel<HTMLElement>(undefined, step.stage);
  return (
    <section
      ref={panel}
      {...HOLDS_KEYS}
      className="cell-panel"
      aria-label={`${step.label}: formula, numbers and uncertainty`}
    >
      <CellHow step={step} />
      <Budget step={step} />
      <div className="cell-parameters">
        <StageParameters
          step={step}
          sensor={sensor}
          bench={bench}
          recording={recording}
          draft={draft}
          setDraft={setDraft}
        />
      </div>
      <button type="button" className="panel-close" aria-label="Close" onClick={onClose}>
        ×
      </button>
    </section>
  );
}
