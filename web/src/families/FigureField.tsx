import { useState } from "react";
import Form from "react-bootstrap/Form";
import { QuantityInput } from "../units/QuantityInput";
import { TakeOff } from "./TakeOff";
import type { Path } from "./document";
import { shownUnit, usualSize } from "./figures";

interface Props {
  path: Path;
  title: string;
  value: number | null;
  source: string;
  onChange: (value: number, source: string) => void;
  onRemove?: () => void;
}

/** One figure: number with unit, and under it where it is from. */
export function FigureField({ path, title, value, source, onChange, onRemove }: Props) {
  // Fixed while it is on screen, or the unit would change under the fingers.
  const [[perUnit, unit]] = useState(() => shownUnit(value ?? usualSize(path), path));
  const [isSourced, setSourced] = useState(value === null);
  return (
    <div className="figure-field">
      <QuantityInput
        label={title}
        unit={unit}
        perUnit={perUnit}
        decimals={decimalsOf((value ?? 1) / perUnit)}
        value={value}
        onChange={(next) => next !== null && next !== value && onChange(next, isSourced ? source : "my datasheet")}
      />
      <div className="figure-source">
        <Form.Control
          size="sm"
          plaintext
          aria-label={`source of ${title}`}
          value={source}
          disabled={value === null}
          onChange={(event) => {
            setSourced(true);
            if (value !== null) onChange(value, event.target.value);
          }}
        />
        {onRemove && <TakeOff what={title} words="Leave out" onClick={onRemove} />}
      </div>
    </div>
  );
}

/** Decimals that show six digits of a number. */
function decimalsOf(shown: number): number {
  return shown === 0 ? 0 : Math.min(9, Math.max(0, 5 - Math.floor(Math.log10(Math.abs(shown)))));
}
