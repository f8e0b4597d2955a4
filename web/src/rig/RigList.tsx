import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, Navigate, useNavigate } from "react-router";
import { body, client } from "../api/client";
import { useRefresh, useRigs } from "../api/queries";
import { useFamilies } from "../families/queries";
import { useNotices } from "../shell/Notices";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { BringRig } from "./BringRig";

/** All rigs on this machine; with one only, its home opens at once. */
export function RigList({ leaveWhenOne = false }: { leaveWhenOne?: boolean }) {
  const rigs = useRigs();
  if (leaveWhenOne && rigs.data?.length === 1) {
    return <Navigate to={`/rigs/${rigs.data[0]?.id}`} replace />;
  }
  return (
    <div className="page">
      <h1>Rigs on this machine</h1>
      {rigs.isPending && <Skeleton />}
      {rigs.isError && <Trouble error={rigs.error} retry={() => void rigs.refetch()} />}
      {rigs.data?.length === 0 && (
        <Empty title="No rig yet.">
          <p>
            First give your robot or vehicle a name, and choose its board if you know it. Then add its sensors by the
            labels printed beside their pins; Tick Stone proposes the wires, and says what is wrong before there is
            power. A rig that came as a zip can be brought in below.
          </p>
        </Empty>
      )}
      <ul className="rig-cards">
        {rigs.data?.map((rig) => (
          <li key={rig.id}>
            <Link to={`/rigs/${rig.id}`}>
              <strong>{rig.name}</strong>
              <span className="quiet">{[rig.description, rig.board_label].filter(Boolean).join(" · ")}</span>
              {rig.trouble ? (
                <span className="is-bad">{rig.trouble}</span>
              ) : (
                <span>
                  {rig.ticked} of {rig.stones} stones hold
                </span>
              )}
            </Link>
          </li>
        ))}
      </ul>
      {rigs.data && <NewRig />}
      {rigs.data && <BringRig />}
    </div>
  );
}

function NewRig() {
  const [name, setName] = useState("");
  const [board, setBoard] = useState("");
  const navigate = useNavigate();
  const refresh = useRefresh();
  const notices = useNotices();
  const families = useFamilies();

  async function add(event: FormEvent) {
    event.preventDefault();
    try {
      const rig = await body(
        client.POST("/api/rigs", { body: { name, board, description: "", air: { temperature_c: 20 } } }),
      );
      await navigate(`/rigs/${rig.id}/wire/plan`);
      await refresh();
    } catch (error) {
      notices.failed(error);
    }
  }

  return (
    <Form className="new-row" onSubmit={(event) => void add(event)}>
      <Form.Group controlId="rig-name">
        <Form.Label>New rig</Form.Label>
        <Form.Control
          size="sm"
          required
          maxLength={120}
          value={name}
          placeholder="its name"
          onChange={(e) => setName(e.target.value)}
        />
      </Form.Group>
      <Form.Group controlId="rig-board">
        <Form.Label>Board</Form.Label>
        <Form.Select size="sm" value={board} onChange={(e) => setBoard(e.target.value)}>
          <option value="">choose later</option>
          {families.data
            ?.filter((family) => family.kind === "board")
            .map((family) => (
              <option key={family.name} value={family.name}>
                {family.label}
              </option>
            ))}
        </Form.Select>
      </Form.Group>
      <Button type="submit" size="sm" disabled={name.trim() === ""}>
        Add the rig
      </Button>
    </Form>
  );
}
