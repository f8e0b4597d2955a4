import type { ControlBench, Values } from "./queries";
import { type Tried, begun, pick } from "./tried";

/** Mistakes that are often made: the bench without one beside the bench with it. */
export function Mistakes({ bench, onShow }: { bench: ControlBench; onShow: (tried: Tried) => void }) {
  function show(one: ControlBench["demonstrators"][number]) {
    const kind = bench.plants.find((each) => each.name === one.plant);
    if (!kind) return;
    const first = begun(kind, bench);
    const [right, wrong] = [one.right as Values, one.wrong as Values];
    const settings = [right, wrong].map((values) => ({ ...first.settings[0], ...pick(values, bench.controller) }));
    onShow({ ...first, rigInputs: { ...first.rigInputs, ...pick(right, bench.rig) }, settings });
  }
  return (
    <ul className="starting-points">
      {bench.demonstrators.map((one) => (
        <li key={one.name}>
          <button type="button" onClick={() => show(one)}>
            <b>{one.label}</b>
            <span>{one.what}</span>
            <span className="quiet">Shown as A without it and B with it.</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
