import type { Wiring } from "../queries";

type PinState = Wiring["pins"][number]["states"][number];

/** Volts and amps at a pin in each of its states, a line each. */
export function pinWords(states: PinState[]): string[] {
  return states.map((state) => {
    const amps = state.amps !== null && Math.abs(state.amps) >= 1e-5 ? `, ${currentWords(state.amps)}` : "";
    return `${state.when}: ${voltWords(state)}${amps}`;
  });
}

function voltWords({ low_v, usual_v, high_v }: PinState): string {
  if (low_v === null || usual_v === null || high_v === null) return "held by nothing";
  const usual = `${volts(usual_v)} V`;
  return volts(low_v) === volts(high_v) ? usual : `${usual} (${volts(low_v)} to ${volts(high_v)})`;
}

function volts(value: number): string {
  const shown = value.toFixed(2);
  return shown === "-0.00" ? "0.00" : shown.replace("-", "−");
}

/** What the pin gives, or takes. */
function currentWords(amps: number): string {
  return `${amps > 0 ? "gives" : "takes"} ${(Math.abs(amps) * 1000).toPrecision(2).replace(/\.?0+$/, "")} mA`;
}
