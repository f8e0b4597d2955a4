import type { Wiring } from "../queries";

/** What the program has to know: names of pins, what to switch on, and what it must not do. */
export function ProgramLines({ program }: Pick<Wiring, "program">) {
  if (program.names.length === 0) return null;
  return (
    <section className="program-lines" aria-label="For the program">
      <h2>For the program</h2>
      <dl>
        {program.names.map((one) => (
          <div key={one.device}>
            <dt>{one.device}</dt>
            <dd>
              <code>{one.line}</code>
            </dd>
          </div>
        ))}
      </dl>
      <ul>
        {[...program.switches, ...program.cautions].map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  );
}
