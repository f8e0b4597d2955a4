import { useState } from "react";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { Trouble, Skeleton } from "../shell/States";
import { QuantityInput } from "../units/QuantityInput";
import { Listing } from "./Listing";
import { ProofPanel } from "./ProofPanel";
import { type Program, type Programs, type Wanted, useProgram } from "./queries";

const BAUDS = [9600, 19200, 38400, 57600, 115200];

/** A program for the board: one that listens, one that converts, or one that also decides. */
export function ProgramView({ rigId, programs, kind }: { rigId: number; programs: Programs; kind: Wanted["kind"] }) {
  const [wanted, setWanted] = useState<Wanted>({ kind, target: "", rate_hz: 20, baud: 9600, is_whole: false });
  const written = useProgram(rigId, wanted, kind !== "rules" || programs.decides.length > 0);
  if (!programs.board)
    return (
      <section className="bench">
        <h2>Which board?</h2>
        <p>
          A program is written for a board and what is wired to it.{" "}
          <Link to={`/rigs/${rigId}/wire/plan`}>Choose one</Link> on the wiring page, then come back.
        </p>
      </section>
    );
  if (programs.targets.length === 0)
    return (
      <section className="bench">
        <h2>Nothing can be written for this board yet.</h2>
        <p>A {programs.board} is neither an 8-bit board, nor one that runs small Python, nor a computer.</p>
      </section>
    );
  if (kind === "rules" && programs.decides.length === 0)
    return (
      <section className="bench">
        <h2>Nothing is decided on this rig yet.</h2>
        <p>
          Keep <Link to={`/rigs/${rigId}/rules`}>rules</Link> that say what the rig does when, or a{" "}
          <Link to={`/rigs/${rigId}/control`}>controller</Link> that holds something where it should be, and they are
          written here for its board.
        </p>
      </section>
    );
  const target = programs.targets.find((one) => one.name === (wanted.target || programs.targets[0]?.name));
  const set = (change: Partial<Wanted>) => setWanted({ ...wanted, ...change });
  return (
    <div className="program-body">
      <section className="program-side" aria-label="What it does">
        <div className="fields">
          {programs.targets.length > 1 && (
            <Form.Group controlId="program-target">
              <Form.Label>Language</Form.Label>
              <Form.Select size="sm" value={target?.name} onChange={(event) => set({ target: event.target.value })}>
                {programs.targets.map((one) => (
                  <option key={one.name} value={one.name}>
                    {one.label}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
          )}
          <QuantityInput
            label="Lines a second, if it can"
            unit=""
            decimals={1}
            value={wanted.rate_hz}
            onChange={(value) => value !== null && set({ rate_hz: value })}
          />
          {target?.chooses_baud && (
            <Form.Group controlId="program-baud">
              <Form.Label>Speed of the line, at least</Form.Label>
              <Form.Select
                size="sm"
                value={wanted.baud}
                onChange={(event) => set({ baud: Number(event.target.value) })}
              >
                {BAUDS.map((one) => (
                  <option key={one} value={one}>
                    {one} baud
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
          )}
        </div>
        {kind !== "listen" && (
          <Form.Check
            id="program-whole"
            label="Whole numbers, where they can be proven near enough"
            checked={wanted.is_whole}
            onChange={(event) => set({ is_whole: event.target.checked })}
          />
        )}
        {target && <p className="quiet">{target.what}</p>}
        {written.isError && <Trouble error={written.error} retry={() => void written.refetch()} />}
        {written.data && !written.isError && (
          <>
            <Summary rigId={rigId} program={written.data} />
            <ProofPanel key={written.data.identity} rigId={rigId} wanted={wanted} />
            <Columns rigId={rigId} program={written.data} />
          </>
        )}
      </section>
      {written.isPending && <Skeleton lines={12} />}
      {written.data && !written.isError && (
        <Listing files={[{ path: written.data.path, text: written.data.text }, ...written.data.beside]} />
      )}
    </div>
  );
}

const NOT: Record<string, string> = { listen: "is not read", convert: "is not converted" };

function Summary({ rigId, program }: { rigId: number; program: Program }) {
  return (
    <>
      <p className="program-pace">
        <b className="figure">{program.rate_hz.toPrecision(3)}</b> lines a second at{" "}
        <b className="figure">{program.baud}</b> baud
      </p>
      {program.wiring_errors.length > 0 && (
        <div className="program-warning" role="note">
          <h3>Not before the wiring is mended</h3>
          <ul>
            {program.wiring_errors.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
          <Link to={`/rigs/${rigId}/wire/plan`}>To the wiring</Link>
        </div>
      )}
      {program.notes.map((note) => (
        <p key={note}>{note}</p>
      ))}
      {program.left_out.map((one) => (
        <div key={one.label} className="program-left-out">
          <h3>
            {one.label} {NOT[program.kind] ?? "is not in it"}
          </h3>
          <p>
            {one.why.charAt(0).toUpperCase() + one.why.slice(1)}. {one.next_best}
          </p>
        </div>
      ))}
    </>
  );
}

/** What a line holds, by whose it is. */
function Columns({ rigId, program }: { rigId: number; program: Program }) {
  return (
    <>
      <h2>What a line holds</h2>
      <dl className="program-columns">
        {grouped(program).map(([device, columns]) => (
          <div key={device}>
            <dt>{device}</dt>
            <dd>{columns.join(", ")}</dd>
          </div>
        ))}
      </dl>
      <p className="quiet">
        The first line it prints says which program it is; the next names the columns. Open its{" "}
        <Link to={`/rigs/${rigId}/line`}>line</Link>, and every column is with its sensor.{" "}
        {program.kind !== "listen" && "A column is empty where what is told is no measurement."}
      </p>
    </>
  );
}

/** Columns by whose they are, in order. */
function grouped(program: Program): [string, string[]][] {
  const found = new Map<string, string[]>();
  for (const one of program.columns) {
    const device = one.device || (one.quantity === "time" ? "the board’s time" : "what is decided");
    found.set(device, [...(found.get(device) ?? []), one.header]);
  }
  return [...found];
}
