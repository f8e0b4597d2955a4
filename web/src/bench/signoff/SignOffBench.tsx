import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import { type Sensor, useRefresh } from "../../api/queries";
import { useNotices } from "../../shell/Notices";
import { SensorDetails } from "./SensorDetails";
import { dayAndTime } from "../../units/dates";

const WORDS = {
  wired: {
    title: "Look the wiring over",
    ask: "Power off. Follow each lead with a finger: ground, supply, then signals. A second pair of eyes finds what the first cannot.",
    right: "It is right",
    wrong: "Something is wrong",
    note: "what was looked at, by whom",
    caution: "Check the supply’s polarity before power. Never short, pierce or charge lithium cells unattended. Solder fume and fibreglass dust: extract, do not breathe, wash hands.",
  },
  driven: {
    title: "Drive, and note how it went",
    ask: "Drive it towards something soft at the speed it was tuned for. Did it stop where it was meant to, and go again?",
    right: "It went as expected",
    wrong: "It did not",
    note: "where, how fast, what happened",
    caution: "First run with the wheels off the floor. Guard what spins, protect your eyes, keep a stop within reach and people out of the way. On a road local rules decide. Tick Stone is not a safety device.",
  },
} as const;

/** A stage that a person, not a rule, says is right. */
export function SignOffBench({ sensor, stage }: { sensor: Sensor; stage: "wired" | "driven" }) {
  const [note, setNote] = useState("");
  const refresh = useRefresh();
  const notices = useNotices();
  const words = WORDS[stage];
  const signed = sensor.sign_offs.filter((one) => one.stage === stage);

  async function sign(isRight: boolean) {
    try {
      const row = await body(
        client.POST("/api/sensors/{sensor_id}/sign-offs", {
          params: { path: { sensor_id: sensor.id } },
          body: { stage, is_right: isRight, note },
        }),
      );
      setNote("");
      notices.done("Noted.", async () => {
        await body(client.DELETE("/api/sign-offs/{sign_off_id}", { params: { path: { sign_off_id: row.id } } }));
        await refresh();
      });
      await refresh();
    } catch (error) {
      notices.failed(error);
    }
  }

  return (
    <div className="sign-off">
      <form
        className="panel"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          void sign(true);
        }}
      >
        <h2>{words.title}</h2>
        <p>{words.ask}</p>
        <p className="quiet">
          {sensor.name}: {sensor.family_label}
          {sensor.pins && <>, on {sensor.pins}</>}
          {sensor.place && <>, {sensor.place}</>}.
        </p>
        {stage === "wired" && (
          <p className="empty-actions">
            <Link className="btn btn-sm btn-primary" to={`/rigs/${sensor.rig_id}/wire/list`}>
              Open the wiring list
            </Link>
            <Link className="btn btn-sm btn-outline-primary" to={`/rigs/${sensor.rig_id}/wire/plan`}>
              Change its wires
            </Link>
          </p>
        )}
        <Form.Group controlId="sign-note" className="quantity wide">
          <Form.Label>Note</Form.Label>
          <Form.Control size="sm" maxLength={2000} value={note} placeholder={words.note} onChange={(event) => setNote(event.target.value)} />
        </Form.Group>
        <div className="panel-actions">
          <Button type="submit" size="sm">
            {words.right}
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => void sign(false)}>
            {words.wrong}
          </Button>
        </div>
        <p className="caution">{words.caution}</p>
      </form>
      {stage === "wired" && <SensorDetails key={`${sensor.name} ${sensor.place}`} sensor={sensor} />}
      {signed.length > 0 && (
        <table className="sign-table">
          <thead>
            <tr>
              <th scope="col">when</th>
              <th scope="col">right?</th>
              <th scope="col">note</th>
            </tr>
          </thead>
          <tbody>
            {signed.map((one) => (
              <tr key={one.id}>
                <td>{dayAndTime(one.at)}</td>
                <td className={one.is_right ? "" : "is-bad"}>{one.is_right ? "yes" : "no"}</td>
                <td>{one.note || "–"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
