import { useCallback, useMemo, useState } from "react";
import { useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useParams, useSearchParams } from "react-router";
import { body, client } from "../api/client";
import { type Rig, useRig } from "../api/queries";
import { CellFacts } from "../bench/CellFacts";
import { AirNote } from "../bench/AirNote";
import { WorkingLine } from "../bench/WorkingLine";
import { LivePicture } from "../bench/pictures/Picture";
import { Over } from "../shell/Over";
import { Skeleton, Trouble } from "../shell/States";
import { useKey } from "../shell/keys";
import { grouped } from "../units/units";
import { AskBoard } from "./AskBoard";
import { BoardPanel } from "./BoardPanel";
import { ColumnsPanel } from "./ColumnsPanel";
import { Lanes } from "./Lanes";
import { LineReadout } from "./LineReadout";
import { LineStrip } from "./LineStrip";
import { LineTabs } from "./LineTabs";
import { LinesPanel } from "./LinesPanel";
import { PortChooser } from "./PortChooser";
import { RecordBar } from "./RecordBar";
import { useOpenLine } from "./queries";
import { useWatch } from "./useWatch";

const WINDOWS = [5, 10, 30, 60];

/** The line of a rig: choose a port, watch every channel, record. */
export default function LinePage() {
  const rigId = Number(useParams()["rigId"]);
  const rig = useRig(rigId);
  const open = useOpenLine(rigId);
  const queries = useQueryClient();
  const reopened = () => queries.invalidateQueries({ queryKey: ["line", rigId] });
  return (
    <>
      {(rig.isPending || open.isPending) && (
        <div className="page">
          <Skeleton lines={9} />
        </div>
      )}
      {rig.isError && (
        <div className="page">
          <Trouble error={rig.error} retry={() => void rig.refetch()} />
        </div>
      )}
      {rig.data && open.data === null && (
        <div className="bench-page">
          <header className="bench-head">
            <h1>{rig.data.name}, line</h1>
            <LineTabs rigId={rigId} view="line" />
          </header>
          <div className="page">
            <PortChooser rig={rig.data} onOpened={reopened} />
          </div>
        </div>
      )}
      {rig.data && open.data && <OpenLine key={open.data.label} rig={rig.data} onClosed={reopened} />}
    </>
  );
}

const PROGRAMS: Record<string, string> = { listen: "listening", convert: "converting" };

type Side = "lines" | "columns" | "board";

function OpenLine({ rig, onClosed }: { rig: Rig; onClosed: () => Promise<unknown> }) {
  const [search] = useSearchParams();
  const wanted = Number(search.get("sensor")) || null;
  const [windowS, setWindowS] = useState(10);
  const [columns, setColumns] = useState(600);
  const [chosen, setChosen] = useState<number | null>(null);
  const [isRaw, setRaw] = useState(false);
  const [side, setSide] = useState<Side>("lines");
  const [readout, setReadout] = useState(false);
  const [cell, setCell] = useState<string | null>(null);
  const [marks, setMarks] = useState<{ channel: number | null; from_s: number; to_s: number }[]>([]);
  const [firstChained, setFirstChained] = useState<number | null>(null);
  const focus = chosen ?? firstChained;
  const wish = useMemo(() => ({ windowS, columns, focus }), [windowS, columns, focus]);
  const { store, line, working, isCut } = useWatch(rig.id, true, wish);
  const onWidth = useCallback((width: number) => setColumns(width), []);

  const first =
    line?.shape?.columns.find((one) => one.sensor_id !== null && one.sensor_id === wanted && one.channel !== null) ??
    line?.shape?.columns.find((one) => one.gives !== null && one.channel !== null);
  if (first && first.channel !== firstChained) setFirstChained(first.channel);
  const column = line?.shape?.columns.find((one) => one.channel === focus && one.channel !== null) ?? null;
  const steps = working && column?.gives && working.channel === focus ? working.steps : null;
  useKey("r", column ? () => setReadout(true) : null);
  useKey("Escape", cell && !readout ? () => setCell(null) : null);

  async function close() {
    await body(client.DELETE("/api/rigs/{rig_id}/line", { params: { path: { rig_id: rig.id } } }));
    await onClosed();
  }

  const step = steps?.find((one) => one.stage === cell);
  const isOver = line?.state === "ended";
  return (
    <div className="bench-page line-page">
      <header className="bench-head">
        <h1>{rig.name}, line</h1>
        <LineTabs rigId={rig.id} view="line" />
        <div className="page-actions ms-auto">
          <Button size="sm" variant="outline-primary" disabled={!column} onClick={() => setReadout(true)}>
            Read out <kbd>R</kbd>
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => void close()}>
            {isOver ? "Choose a port" : "Close the line"}
          </Button>
        </div>
      </header>
      {line && (
        <div className="line-place">
          <span>
            {line.label}
            {line.speed !== null && `, ${line.speed} baud`}
            {line.program?.standing === "now" && `, ${PROGRAMS[line.program.kind]} program ${line.program.identity}`}
          </span>
          {!line.program && !line.board && line.state === "live" && line.kind !== "replay" && (
            <AskBoard rigId={rig.id} />
          )}
          <LineStrip line={line} store={store} isCut={isCut} />
        </div>
      )}
      {line?.trouble && line.state !== "live" && (
        <Over>
          <p className="bench-note warning" role="alert">
            {line.state === "lost"
              ? `The line is gone: ${line.trouble}. What arrived is safe. ` +
                "Plug the cable back in; listening goes on by itself."
              : `The line has ended: ${line.trouble}.`}
          </p>
        </Over>
      )}
      {line?.program && line.program.standing !== "now" && (
        <p className="bench-note" role="note">
          {line.program.says}
          {line.program.standing === "older" && (
            <>
              {" "}
              <Link to={`/rigs/${rig.id}/program/${line.program.kind}`}>To the program of now</Link>
            </>
          )}
        </p>
      )}
      {line && !steps && (
        <div className="working-line">
          <p className="working-empty">
            {column
              ? `${column.name} has no working yet: it is shown as it comes.`
              : "Take a channel in hand to see how its number comes about."}
          </p>
        </div>
      )}
      {steps && (
        <WorkingLine
          steps={steps}
          trust={working?.trust ?? null}
          air={working?.air ?? null}
          open={cell}
          onOpen={(name) => setCell(name === cell ? null : name)}
        />
      )}
      {steps && column?.sensor_id && <LivePicture sensorId={column.sensor_id} steps={steps} />}
      {steps && (
        <AirNote
          air={working?.air ?? null}
          use={(celsius) =>
            body(
              client.PATCH("/api/rigs/{rig_id}", {
                params: { path: { rig_id: rig.id } },
                body: { air: { ...rig.air, temperature_c: celsius } },
              }),
            )
          }
        />
      )}
      {step && (
        <Over>
          <CellFacts step={step} onClose={() => setCell(null)} />
        </Over>
      )}
      {line && (
        <RecordBar
          line={line}
          channel={column}
          onMarked={(mark) => setMarks((before) => [...before.slice(-50), mark])}
        />
      )}
      {!line && (
        <div className="page">
          <Skeleton lines={6} />
        </div>
      )}
      {line && (
        <div className="bench-body line-body">
          <section className="bench" aria-label="Channels">
            <div className="lanes-head">
              <Form.Select
                size="sm"
                aria-label="Time shown"
                value={windowS}
                onChange={(event) => setWindowS(Number(event.target.value))}
              >
                {WINDOWS.map((one) => (
                  <option key={one} value={one}>
                    last {one} s
                  </option>
                ))}
              </Form.Select>
              <Form.Check
                type="switch"
                id="is-raw"
                label="raw"
                checked={isRaw}
                onChange={(event) => setRaw(event.target.checked)}
              />
              <span className="quiet">Click a channel to take it in hand: read it out, see its working, mark it.</span>
            </div>
            {line.shape ? (
              <Lanes
                store={store}
                line={line}
                windowS={windowS}
                focus={focus}
                onFocus={setChosen}
                onWidth={onWidth}
                isRaw={isRaw}
                marks={marks}
              />
            ) : (
              <p className="bench-note">
                {line.bytes === 0
                  ? "Nothing has arrived yet. Does the board print anything? Is it the right port?"
                  : line.lines === 0
                    ? `${grouped(line.bytes, 0)} bytes have come. A few more lines, and what they hold is known.`
                    : `${grouped(line.lines, 0)} lines have come, and what they hold could not be told: ` +
                      "see why beside each. Is the speed right?"}
              </p>
            )}
          </section>
          <aside className="line-side">
            <div className="side-tabs" role="tablist">
              {(["lines", "columns", ...(line.board ? ["board" as const] : [])] as Side[]).map((one) => (
                <button key={one} type="button" role="tab" aria-selected={side === one} onClick={() => setSide(one)}>
                  {one === "lines" ? "Lines" : one === "columns" ? "Columns" : "Stand-in"}
                </button>
              ))}
            </div>
            {side === "lines" && <LinesPanel store={store} line={line} />}
            {side === "columns" && <ColumnsPanel rig={rig} line={line} />}
            {side === "board" && line.board && <BoardPanel rigId={rig.id} name={line.board} />}
          </aside>
        </div>
      )}
      {column && (
        <LineReadout
          show={readout}
          name={(steps && rig.sensors.find((one) => one.id === column.sensor_id)?.name) || column.name}
          column={column}
          store={store}
          steps={steps}
          trust={working?.channel === focus ? (working?.trust ?? null) : null}
          air={working?.channel === focus ? (working?.air ?? null) : null}
          onHide={() => setReadout(false)}
        />
      )}
    </div>
  );
}
