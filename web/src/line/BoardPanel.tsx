import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { body, client } from "../api/client";
import { useNotices } from "../shell/Notices";
import { useBoards } from "./queries";

/** The stand-in board's world: move things, switch faults. */
export function BoardPanel({ rigId, name }: { rigId: number; name: string }) {
  const boards = useBoards();
  const notices = useNotices();
  const board = boards.data?.find((one) => one.name === name);
  const [values, setValues] = useState<Record<string, number>>({});
  const [faults, setFaults] = useState<Record<string, boolean>>({});

  async function say(text: string) {
    try {
      await body(client.POST("/api/rigs/{rig_id}/line/send", { params: { path: { rig_id: rigId } }, body: { text } }));
    } catch (error) {
      notices.failed(error);
    }
  }

  if (!board) return null;
  return (
    <div className="board-panel">
      {board.controls.map((control) => {
        const value = values[control.word] ?? control.value;
        return (
          <Form.Group key={control.word} controlId={`control-${control.word}`} className="control">
            <Form.Label>
              {control.label}
              <b>
                {Number(value.toFixed(2))} {control.unit}
              </b>
            </Form.Label>
            <Form.Range
              min={control.low}
              max={control.high}
              step={control.step}
              value={value}
              onChange={(event) => {
                const next = Number(event.target.value);
                setValues((before) => ({ ...before, [control.word]: next }));
                void say(`${control.word} ${next}`);
              }}
            />
          </Form.Group>
        );
      })}
      <h3>Faults</h3>
      <ul className="faults">
        {board.faults.map((fault) => {
          const isMoment = fault.word === "unplug" || fault.word === "wrap";
          return (
            <li key={fault.word} title={fault.looks}>
              {isMoment ? (
                <Button size="sm" variant="outline-primary" onClick={() => void say(`fault ${fault.word} on`)}>
                  {fault.label}
                </Button>
              ) : (
                <Form.Check
                  type="switch"
                  id={`fault-${fault.word}`}
                  label={fault.label}
                  checked={faults[fault.word] ?? false}
                  onChange={(event) => {
                    const isOn = event.target.checked;
                    setFaults((before) => ({ ...before, [fault.word]: isOn }));
                    void say(`fault ${fault.word} ${isOn ? "on" : "off"}`);
                  }}
                />
              )}
              {faults[fault.word] && <span className="quiet">{fault.looks}</span>}
            </li>
          );
        })}
      </ul>
    </div>
  );
}
