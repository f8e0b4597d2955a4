import { type FormEvent, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Part, type PowerSupply, type Wiring, useWiringChanges } from "../queries";
import { numberOrNull, typingProblem } from "../../units/typed";
import { freeName } from "./places";

const CHEMISTRIES: { chemistry: NonNullable<PowerSupply["chemistry"]>; label: string }[] = [
  { chemistry: "alkaline", label: "alkaline cells" },
  { chemistry: "nickel", label: "nickel-metal hydride cells" },
  { chemistry: "lithium", label: "lithium cells" },
  { chemistry: "lithium_iron", label: "lithium iron phosphate cells" },
  { chemistry: "lead", label: "lead cells" },
];

/** A supply of one's own: cells, or volts; what it feeds; whether its minus is the board's ground. */
export function SupplyForm({ wiring, onDone }: { wiring: Wiring; onDone: () => void }) {
  const [name, setName] = useState("");
  const [source, setSource] = useState<string>("alkaline");
  const [cells, setCells] = useState("4");
  const [volts, setVolts] = useState({ least: "", usual: "", greatest: "" });
  const [limit, setLimit] = useState("");
  const [feeds, setFeeds] = useState("");
  const [isCommon, setIsCommon] = useState(true);
  const changes = useWiringChanges(wiring);
  const isCells = source !== "volts";
  const isWhole = name.trim() !== "" && (isCells ? Number(cells) >= 1 : (numberOrNull(volts.usual, "V") ?? 0) > 0);

  async function submit(event: FormEvent) {
    event.preventDefault();
    const key = name.trim();
    const supply: PowerSupply = {
      key,
      name: "",
      has_common_ground: isCommon,
      ...(isCells
        ? { cells: Number(cells), chemistry: source as NonNullable<PowerSupply["chemistry"]> }
        : {
            usual_v: numberOrNull(volts.usual, "V"),
            least_v: numberOrNull(volts.least, "V"),
            greatest_v: numberOrNull(volts.greatest, "V"),
          }),
      limit_a: numberOrNull(limit, "A"),
    };
    const wire = {
      key: freeName(
        "W",
        wiring.parts.map((part) => part.key),
      ),
      kind: "wire",
      ends: { a: `${key}+`, b: feeds },
      tolerance: 0.05,
    } as Part;
    const isKept = await changes.alter(`${key} is on the bench.`, (now) => ({
      supplies: [...now.supplies, supply],
      parts: feeds ? [...now.parts, wire] : now.parts,
    }));
    if (isKept) onDone();
  }

  return (
    <form className="part-form" aria-label="New supply" onSubmit={(event) => void submit(event)}>
      <label className="part-figure wide">
        Name
        <Form.Control
          size="sm"
          value={name}
          placeholder="Drive pack"
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <Form.Select size="sm" aria-label="What it is" value={source} onChange={(event) => setSource(event.target.value)}>
        {CHEMISTRIES.map((one) => (
          <option key={one.chemistry} value={one.chemistry}>
            {one.label}
          </option>
        ))}
        <option value="volts">a supply of stated volts</option>
      </Form.Select>
      {isCells ? (
        <label className="part-figure">
          Cells
          <Form.Control
            size="sm"
            type="number"
            min={1}
            max={24}
            value={cells}
            onChange={(e) => setCells(e.target.value)}
          />
        </label>
      ) : (
        (["least", "usual", "greatest"] as const).map((which) => (
          <label key={which} className="part-figure">
            {which} V
            <Form.Control
              size="sm"
              inputMode="decimal"
              value={volts[which]}
              isInvalid={typingProblem(volts[which], "V") !== undefined}
              onChange={(event) => setVolts({ ...volts, [which]: event.target.value })}
            />
          </label>
        ))
      )}
      <label className="part-figure">
        gives A
        <Form.Control
          size="sm"
          inputMode="decimal"
          value={limit}
          isInvalid={typingProblem(limit, "A") !== undefined}
          placeholder="unknown"
          onChange={(e) => setLimit(e.target.value)}
        />
      </label>
      <label className="part-leg">
        its plus feeds
        <Form.Select size="sm" value={feeds} onChange={(event) => setFeeds(event.target.value)}>
          <option value="">nothing of the board’s; devices go to it</option>
          {wiring.rails
            .filter((rail) => rail.kind !== "ground")
            .map((rail) => (
              <option key={rail.name} value={rail.name}>
                the board’s {rail.name}
              </option>
            ))}
        </Form.Select>
      </label>
      <Form.Check
        id="supply-ground"
        type="checkbox"
        label="its minus is joined to the board’s ground"
        checked={isCommon}
        onChange={(event) => setIsCommon(event.target.checked)}
      />
      <span className="panel-actions">
        <Button size="sm" type="submit" disabled={!isWhole}>
          Put it in
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onDone}>
          Cancel
        </Button>
      </span>
    </form>
  );
}
