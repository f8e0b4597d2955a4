import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Rig } from "../api/queries";
import { Skeleton, Trouble } from "../shell/States";
import { SpeedAsked } from "./SpeedAsked";
import { canOpenHere, openHere } from "./pagePort";
import { useBoards, usePorts } from "./queries";

interface Props {
  rig: Rig;
  onOpened: () => Promise<unknown>;
}

/** A board appears here when it is plugged in; a stand-in talks just like one. */
export function PortChooser({ rig, onOpened }: Props) {
  const ports = usePorts(true);
  const boards = useBoards();
  const queries = useQueryClient();
  const [resets, setResets] = useState(true);
  const [busy, setBusy] = useState("");
  const [error, setError] = useState<{ of: string; what: unknown } | null>(null);
  const [more, setMore] = useState(false);
  const path = { params: { path: { rig_id: rig.id } } };

  async function trying(of: string, act: () => Promise<unknown>) {
    setBusy(of);
    setError(null);
    try {
      await act();
      await onOpened();
    } catch (what) {
      setError({ of, what });
    } finally {
      setBusy("");
      void queries.invalidateQueries({ queryKey: ["ports"] });
    }
  }

  const open = (port: string, at: number | null) =>
    trying(port, () =>
      body(client.POST("/api/rigs/{rig_id}/line", { ...path, body: { path: port, speed: at, resets } })),
    );

  async function startBoard(name: string, at: number) {
    await trying(name, async () => {
      const board = await body(client.POST("/api/boards/{name}", { params: { path: { name } }, body: { seed: 1 } }));
      await body(client.POST("/api/rigs/{rig_id}/line", { ...path, body: { path: board.path, speed: at, resets } }));
    });
  }

  const real = ports.data?.filter((port) => !port.is_stand_in) ?? [];
  const own = rig.name.toLowerCase();
  const shown = [...(boards.data ?? [])].sort((a, b) => Number(b.name === own) - Number(a.name === own));
  const outside = (ports.data ?? []).filter(
    (port) => port.is_stand_in && !shown.some((board) => board.path === port.path),
  );
  const found = [...real, ...outside];
  return (
    <div className="port-chooser">
      <section className="panel" aria-label="Boards plugged in">
        <h2>Plug your board in; it appears here</h2>
        <p className="quiet">
          {found.length === 0
            ? "Nothing is plugged in yet. Looking every two seconds. No board at hand? Take a stand-in."
            : "Choose it and Tick Stone listens, finds its speed, and learns what each line holds."}
        </p>
        {ports.isPending && <Skeleton lines={2} />}
        {ports.isError && <Trouble error={ports.error} retry={() => void ports.refetch()} />}
        <ul className="ports">
          {found.map((port) => (
            <li key={port.path}>
              <span>
                <b>{port.label}</b>
                <span className="quiet">
                  {port.held_by
                    ? `${port.held_by} has it open`
                    : port.rig_name
                      ? `heard for ${port.rig_name}`
                      : port.detail}
                </span>
              </span>
              <Button
                size="sm"
                disabled={busy !== "" || port.rig_name !== ""}
                onClick={() => void open(port.path, port.speed)}
              >
                {busy === port.path ? "Finding its speed…" : "Listen"}
              </Button>
              {error?.of === port.path && (
                <SpeedAsked error={error.what} isBusy={busy !== ""} onSpeed={(at) => void open(port.path, at)} />
              )}
            </li>
          ))}
        </ul>
        <button type="button" className="disclosure" aria-expanded={more} onClick={() => setMore(!more)}>
          <span aria-hidden="true">{more ? "▾" : "▸"}</span> It does not appear, or must not restart
        </button>
        {more && (
          <div className="port-more">
            <Form.Check
              id="port-resets"
              checked={resets}
              onChange={(event) => setResets(event.target.checked)}
              label="Opening may restart the board"
            />
            <p className="quiet">
              A cable that only charges carries no data: try another. Some boards appear only while their program runs.
            </p>
            {canOpenHere() && (
              <p>
                Is it plugged into this machine, and Tick Stone runs on another?{" "}
                <button
                  type="button"
                  className="link"
                  disabled={busy !== ""}
                  onClick={() => void trying("here", () => openHere(rig.id, 115200))}
                >
                  Take a port of this browser
                </button>
              </p>
            )}
          </div>
        )}
        {error !== null && !found.some((port) => port.path === error.of) && <Trouble error={error.what} />}
      </section>
      <section className="panel" aria-label="Stand-in boards">
        <h2>No board at hand? A stand-in talks like one</h2>
        <p className="quiet">
          From physical models of the sensors: move the target, tilt, spin, pull the cable, switch faults on.
        </p>
        {boards.isError && <Trouble error={boards.error} />}
        <ul className="ports">
          {shown.map((board) => (
            <li key={board.name}>
              <span>
                <b>{board.label}</b>
                <span className="quiet">
                  {board.speed} baud{board.path ? ", running" : ""}
                </span>
              </span>
              <Button
                size="sm"
                variant={board.name === own ? "primary" : "outline-primary"}
                disabled={busy !== ""}
                aria-label={`Listen to ${board.label}`}
                onClick={() => void startBoard(board.name, board.speed)}
              >
                {busy === board.name ? "Starting…" : "Listen"}
              </Button>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
