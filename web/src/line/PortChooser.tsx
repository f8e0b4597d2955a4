import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import type { Rig } from "../api/queries";
import { Skeleton, Trouble } from "../shell/States";
import { canOpenHere, openHere } from "./pagePort";
import { useBoards, usePorts } from "./queries";

const SPEEDS = [4800, 9600, 19200, 38400, 57600, 74880, 115200, 230400, 250000, 460800, 500000, 921600, 1000000, 2000000];

interface Props {
  rig: Rig;
  onOpened: () => Promise<unknown>;
}

/** Which port to listen to: those of this machine, the stand-in boards, or one of this browser. */
export function PortChooser({ rig, onOpened }: Props) {
  const ports = usePorts(true);
  const boards = useBoards();
  const queries = useQueryClient();
  const [speed, setSpeed] = useState("");
  const [resets, setResets] = useState(true);
  const [busy, setBusy] = useState("");
  const [error, setError] = useState<unknown>(null);
  const path = { params: { path: { rig_id: rig.id } } };

  async function trying(what: string, act: () => Promise<unknown>) {
    setBusy(what);
    setError(null);
    try {
      await act();
      await onOpened();
    } catch (failure) {
      setError(failure);
    } finally {
      setBusy("");
      void queries.invalidateQueries({ queryKey: ["ports"] });
    }
  }

  const open = (port: string, at: number | null) =>
    trying(port, () => body(client.POST("/api/rigs/{rig_id}/line", { ...path, body: { path: port, speed: at, resets } })));

  async function startBoard(name: string, at: number) {
    await trying(name, async () => {
      const board = await body(client.POST("/api/boards/{name}", { params: { path: { name } }, body: { seed: 1 } }));
      await body(client.POST("/api/rigs/{rig_id}/line", { ...path, body: { path: board.path, speed: at, resets } }));
    });
  }

  const chosen = speed === "" ? null : Number(speed);
  const real = ports.data?.filter((port) => !port.is_stand_in) ?? [];
  const own = rig.name.toLowerCase();
  const shown = [...(boards.data ?? [])].sort((a, b) => Number(b.name === own) - Number(a.name === own));
  const outside = (ports.data ?? []).filter((port) => port.is_stand_in && !shown.some((board) => board.path === port.path));
  return (
    <div className="port-chooser">
      <section className="panel">
        <h2>Ports of this machine</h2>
        {ports.isPending && <Skeleton lines={2} />}
        {ports.isError && <Trouble error={ports.error} retry={() => void ports.refetch()} />}
        {ports.data && real.length === 0 && (
          <p>
            None. Plug the board in; it appears here by itself. No board at hand? A stand-in below talks just like one.
          </p>
        )}
        <ul className="ports">
          {[...real, ...outside].map((port) => (
            <li key={port.path}>
              <span>
                <b>{port.label}</b>
                <span className="quiet">{port.held_by ? `${port.held_by} has it open` : port.rig_name ? `heard for ${port.rig_name}` : port.detail}</span>
              </span>
              <Button size="sm" disabled={busy !== "" || port.rig_name !== ""} onClick={() => void open(port.path, chosen ?? port.speed)}>
                {busy === port.path ? (chosen ? "Opening…" : "Finding its speed…") : "Listen"}
              </Button>
            </li>
          ))}
        </ul>
        <div className="fields">
          <Form.Group controlId="port-speed" className="quantity">
            <Form.Label>Speed</Form.Label>
            <Form.Select size="sm" value={speed} onChange={(event) => setSpeed(event.target.value)}>
              <option value="">find it by listening</option>
              {SPEEDS.map((one) => (
                <option key={one} value={one}>
                  {one} baud
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Check
            id="port-resets"
            className="port-resets"
            checked={resets}
            onChange={(event) => setResets(event.target.checked)}
            label="Opening may restart the board"
          />
          {canOpenHere() && (
            <Button
              size="sm"
              variant="outline-primary"
              className="ms-auto"
              disabled={busy !== ""}
              title="For a Tick Stone that runs on another machine: the board is plugged in here."
              onClick={() => void trying("here", () => openHere(rig.id, chosen ?? 115200))}
            >
              A port of this browser…
            </Button>
          )}
        </div>
        {error !== null && <Trouble error={error} />}
      </section>
      <section className="panel">
        <h2>Stand-in boards</h2>
        <p className="quiet">
          Programs that talk over a line as a board does, from physical models of the sensors. Move the target, tilt, spin, pull
          the cable, switch faults on: the whole job without hardware.
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
