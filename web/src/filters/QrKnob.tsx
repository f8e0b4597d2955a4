import Form from "react-bootstrap/Form";
import { grouped } from "../units/units";
import type { Asked, Comparison, Filtered } from "./queries";
import { inWords, spelled } from "./words";

const LOW = -7;
const HIGH = 2;

interface Props {
  asked: Asked;
  told: Filtered | undefined;
  all: Comparison;
  onChange: (asked: Asked) => void;
}

/** Q to R as one knob, with the exponential filter it comes to, and whether its own claims hold. */
export function QrKnob({ asked, told, all, onChange }: Props) {
  const now = spelled(asked.words);
  const { q = 1, r = 1 } = now.settings;
  const set = (settings: { q?: number; r?: number }) =>
    onChange({ ...asked, words: inWords({ ...now, settings: { ...now.settings, ...settings } }) });
  const { suggested } = all;
  const checked = told?.innovations;
  return (
    <section className="qr-knob" aria-label="Q to R">
      <Form.Label htmlFor="qr">
        Q/R <b>{(q / r).toPrecision(2)}</b>
        {checked && (
          <span className="quiet">
            {" "}
            once run in, an exponential filter with a = <b>{checked.gain.toPrecision(3)}</b>
          </span>
        )}
      </Form.Label>
      <Form.Range
        id="qr"
        min={LOW}
        max={HIGH}
        step={0.05}
        value={Math.log10(q / r)}
        onChange={(event) => set({ q: r * 10 ** Number(event.target.value) })}
      />
      <p className="qr-ends">
        <span>smoother, later</span>
        <span>quicker, noisier</span>
      </p>
      <p className="qr-ways">
        <button
          type="button"
          className="disclosure"
          onClick={() => set({ q: suggested.q_likely, r: suggested.r_likely })}
        >
          likeliest, by its innovations: {(suggested.q_likely / suggested.r_likely).toPrecision(2)}
        </button>
        <button type="button" className="disclosure" onClick={() => set({ q: suggested.q_fast, r: suggested.r })}>
          to follow the fastest change: {(suggested.q_fast / suggested.r).toPrecision(2)}
        </button>
      </p>
      {checked && (
        <p className={checked.is_fine ? "quiet" : "warning"}>
          {checked.says}
          {checked.ratio !== null && (
            <span className="quiet">
              {" "}
              What is new, against what it expects: {grouped(checked.ratio, 2)}, from one to the next{" "}
              {grouped(checked.echo ?? 0, 2)}.
            </span>
          )}
        </p>
      )}
    </section>
  );
}
