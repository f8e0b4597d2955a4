import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { type Schemas, body, client } from "../../api/client";
import { type FamilySummary, GROUPS, useFamilies } from "../../families/queries";
import { useDeed } from "../../shell/useDeed";
import { Explained } from "../../shell/Explained";

/** A new device: by the labels printed beside its pins, or by its kind. */
export function AddDevice({ rigId, onClose }: { rigId: number; onClose: () => void }) {
  const [labels, setLabels] = useState("");
  const [picked, setPicked] = useState<string | null>(null);
  const [name, setName] = useState("");
  const [place, setPlace] = useState("");
  const families = useFamilies();
  const deed = useDeed();
  const typed = useDeferredValue(labels.trim());
  const matches = useQuery({
    queryKey: ["recognise", typed],
    enabled: typed !== "",
    placeholderData: keepPreviousData,
    queryFn: () => body(client.POST("/api/families/recognise", { body: { labels: typed } })),
  });
  const found = typed === "" ? [] : (matches.data ?? []);
  const fitting = found.filter((match) => match.is_exact);
  // Where several fit, only a person with the part in the hand can tell which it is.
  const isUnsure = fitting.length > 1;
  const family = picked ?? (isUnsure ? "" : (found[0]?.family.name ?? "ultrasonic_ranger"));
  const chosen = families.data?.find((one) => one.kind === "device" && one.name === family);

  async function add() {
    const added = await deed(
      () =>
        body(
          client.POST("/api/rigs/{rig_id}/sensors", {
            params: { path: { rig_id: rigId } },
            body: { name: name.trim() || (chosen?.label ?? family), place, family },
          }),
        ),
      (sensor) => `${sensor.name} is on the rig.`,
      (sensor) => body(client.DELETE("/api/sensors/{sensor_id}", { params: { path: { sensor_id: sensor.id } } })),
    );
    if (!added) return;
    setName("");
    setPlace("");
  }

  return (
    <form
      className="panel add-device"
      aria-label="New device"
      onSubmit={(event) => {
        event.preventDefault();
        if (family !== "") void add();
      }}
    >
      <Form.Group controlId="labels">
        <Form.Label>Labels printed beside the pins</Form.Label>
        <Form.Control
          size="sm"
          value={labels}
          maxLength={200}
          placeholder="VCC TRIG ECHO GND"
          autoComplete="off"
          onChange={(event) => {
            setLabels(event.target.value);
            setPicked(null);
          }}
        />
      </Form.Group>
      {typed !== "" && matches.data && (
        <fieldset className="matches" aria-label="Families with these labels">
          {isUnsure && <legend>These labels fit {fitting.length} kinds. Which of them is it?</legend>}
          {found.length === 0 && (
            <p className="quiet">No family has these labels. Choose a kind below, or describe your own.</p>
          )}
          {(isUnsure ? fitting : found.slice(0, 8)).map((match) => (
            <button
              key={match.family.name}
              type="button"
              aria-pressed={family === match.family.name}
              onClick={() => setPicked(match.family.name)}
            >
              <strong>{match.family.label}</strong>
              <span className="quiet">{isUnsure ? match.family.recognise : fitWords(match)}</span>
            </button>
          ))}
          {isUnsure && (
            <p className="quiet">None of these? Choose a kind below; unlike kinds are fed and read differently.</p>
          )}
        </fieldset>
      )}
      <div className="fields">
        <Form.Group controlId="family" className="quantity wide">
          <Form.Label>Kind</Form.Label>
          <Form.Select size="sm" value={family} onChange={(event) => setPicked(event.target.value)}>
            {family === "" && <option value="">choose by what you see …</option>}
            {GROUPS.map(({ group, title }) => (
              <optgroup key={group} label={title}>
                {families.data
                  ?.filter((one) => one.group === group)
                  .map((one) => (
                    <FamilyOption key={one.name} family={one} />
                  ))}
              </optgroup>
            ))}
          </Form.Select>
        </Form.Group>
        <Form.Group controlId="device-name" className="quantity name">
          <Form.Label>Its name</Form.Label>
          <Form.Control
            size="sm"
            maxLength={120}
            value={name}
            placeholder={chosen?.label ?? ""}
            onChange={(event) => setName(event.target.value)}
          />
        </Form.Group>
        <Form.Group controlId="device-place" className="quantity name">
          <Form.Label>Where it sits</Form.Label>
          <Form.Control
            size="sm"
            maxLength={120}
            value={place}
            placeholder="front, 95 mm up"
            onChange={(event) => setPlace(event.target.value)}
          />
        </Form.Group>
      </div>
      {chosen && (
        <p className="field-hint">
          <Explained text={chosen.what} /> Leads: {chosen.leads.join(" ")}.
        </p>
      )}
      <div className="panel-actions">
        <Button type="submit" size="sm" disabled={family === ""}>
          Add it
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onClose}>
          Close
        </Button>
        <Link className="ms-auto" to="/families/device">
          Describe your own kind
        </Link>
      </div>
    </form>
  );
}

/** How well the labels fit a family. */
function fitWords({ is_exact, missing, strange }: Schemas["MatchOut"]): string {
  if (is_exact) return "all labels fit";
  const words = [
    missing.length > 0 ? `lacks ${missing.join(", ")}` : "",
    strange.length > 0 ? `does not know ${strange.join(", ")}` : "",
  ];
  return words.filter(Boolean).join("; ");
}

function FamilyOption({ family }: { family: FamilySummary }) {
  return (
    <option value={family.name}>
      {family.label}
      {family.is_own ? " (your own)" : ""}
    </option>
  );
}
