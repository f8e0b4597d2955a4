import { useState } from "react";
import { numberOrNull } from "../units/typed";

interface Props {
  label: string;
  value: number;
  onChange: (value: number) => void;
}

const REACH = 2;
/** A hand on the slider goes from a hundredth to a hundred times where it began. */
const STEPS = 200;

/** A gain: typed, or slid over four decades around where it stood. */
export function GainKnob({ label, value, onChange }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const [middle, setMiddle] = useState<number | null>(null);
  const size = Math.abs(value);
  const around = middle ?? (size || 0.1);
  const place = size === 0 ? 0 : Math.min(STEPS, Math.max(1, (Math.log10(size / around) / REACH + 1) * (STEPS / 2)));
  const sign = value < 0 ? -1 : 1;
  return (
    <div className="gain-knob">
      <input
        className="form-control form-control-sm"
        aria-label={label}
        inputMode="decimal"
        value={typed ?? String(Number(value.toPrecision(4)))}
        onChange={(event) => {
          setTyped(event.target.value);
          const number = numberOrNull(event.target.value, "");
          if (number !== null) onChange(number);
        }}
        onBlur={() => setTyped(null)}
      />
      <input
        type="range"
        className="form-range"
        aria-label={`${label}, slid`}
        min={0}
        max={STEPS}
        value={Math.round(place)}
        onPointerDown={() => setMiddle(size || 0.1)}
        onPointerUp={() => setMiddle(null)}
        onChange={(event) => {
          const at = Number(event.target.value);
          const next = at === 0 ? 0 : around * 10 ** ((at / (STEPS / 2) - 1) * REACH);
          onChange(sign * Number(next.toPrecision(4)));
        }}
      />
    </div>
  );
}
