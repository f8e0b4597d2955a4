import { useState } from "react";
import type { Schemas } from "../api/client";
import { Trouble } from "../shell/States";
import { grouped } from "../units/units";
import { Bars } from "./Bars";
import { Spectrum } from "./Spectrum";
import type { Wanted } from "./queries";
import { useSelection } from "./queries";
import { frequency, scatter, shortTime, within } from "./words";

interface Props {
  takeId: number;
  wanted: Wanted | null;
  name: string;
  /** Whether the channel holds pulses: then they are called so. */
  isPulse: boolean;
  span: [number, number] | null;
}

/** The figures behind what is said of A to B, on one channel. */
export function SelectionPanel({ takeId, wanted, name, isPulse, span }: Props) {
  const selection = useSelection(takeId, wanted, span);
  const [isOpen, setOpen] = useState(false);
  if (!span) return null;
  const dt = span[1] - span[0];
  const found = selection.data;
  const change = found?.at_from != null && found.at_to != null ? found.at_to - found.at_from : null;
  return (
    <div className="selection-panel" tabIndex={0} role="region" aria-label="What lies between A and B">
      <button type="button" className="disclosure" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        <span aria-hidden="true">{isOpen ? "▾" : "▸"}</span> Figures of A to B on {name}
        {wanted?.stage ? `, after ${wanted.stage.replaceAll("_", " ")}` : ""}
      </button>
      {selection.isError && <Trouble error={selection.error} />}
      {isOpen && (
        <>
          <dl className="selection-figures">
            <Fact name="Δt" value={shortTime(dt)} />
            <Fact name="A to B, as a rate" value={frequency(dt > 0 ? 1 / dt : null)} />
            {found && (
              <>
                <Fact name="at A" value={`${within(found.at_from, found.sd)} ${found.unit}`} />
                <Fact name="at B" value={`${within(found.at_to, found.sd)} ${found.unit}`} />
                <Fact name="Δ" value={`${within(change, found.sd)} ${found.unit}`} />
                <Fact name={isPulse ? "pulses" : "rises through the middle"} value={grouped(found.pulses, 0)} />
                <Fact name={isPulse ? "rate of pulses" : "rate of rises"} value={frequency(found.pulse_hz)} />
                <Fact
                  name="samples"
                  value={`${grouped(found.n, 0)}${found.flagged ? `, ${grouped(found.flagged, 0)} flagged` : ""}`}
                />
                <Fact name="mean" value={`${within(found.mean, ofMean(found))} ${found.unit}`} />
                <Fact name="standard deviation" value={`${scatter(found.sd)} ${found.unit}`} />
                <Fact name="lowest" value={`${within(found.lowest, found.sd)} ${found.unit}`} />
                <Fact name="highest" value={`${within(found.highest, found.sd)} ${found.unit}`} />
                <Fact name="rate of samples" value={frequency(found.rate_hz)} />
                <Fact
                  name="intervals scatter"
                  value={found.interval_sd_s === null ? "–" : shortTime(found.interval_sd_s)}
                />
              </>
            )}
          </dl>
          {found && found.histogram.length > 1 && (
            <Bars edges={found.histogram_edges} counts={found.histogram} unit={found.unit} />
          )}
          {found && found.spectrum.length > 0 && (
            <Spectrum
              hz={found.spectrum_hz}
              density={found.spectrum}
              unit={found.spectrum_unit}
              note={found.spectrum_note}
            />
          )}
          {found && found.spectrum.length === 0 && found.n > 0 && (
            <p className="quiet">Spectrum: {found.spectrum_note}.</p>
          )}
        </>
      )}
    </div>
  );
}

/** How well a mean is known by its samples' scatter alone. */
function ofMean(found: Schemas["SelectionOut"]): number | null {
  return found.sd === null ? null : found.sd / Math.sqrt(found.n);
}

function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </div>
  );
}
