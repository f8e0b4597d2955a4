import Form from "react-bootstrap/Form";
import { FigureFields } from "./FigureFields";
import { LeadCards } from "./LeadCards";
import { ListField } from "./TextField";
import { type Document, isRecord, valueAt, withValue } from "./document";
import { GROUPS } from "./queries";
import type { Schema } from "./schema";

const CHAINS = [
  { chain: "", words: "not here yet" },
  { chain: "echo", words: "as an echo’s time to a distance" },
];

interface Props {
  document: Document;
  schema: Schema;
  onChange: (next: Document) => void;
}

/** Leads, supply, bus and readings of a device. */
export function DeviceParts(props: Props) {
  const { document, onChange } = props;
  const put = (path: string[], value: unknown) => onChange(withValue(document, path, value) as Document);
  const addresses = valueAt(document, ["i2c", "addresses"]);
  const cautions = document["cautions"];
  return (
    <>
      <div className="fields">
        <Form.Group controlId="device-kind" className="quantity">
          <Form.Label>Kind</Form.Label>
          <Form.Select
            size="sm"
            value={String(document["kind"])}
            onChange={(event) => put(["kind"], event.target.value)}
          >
            {GROUPS.map(({ group }) => (
              <option key={group}>{group}</option>
            ))}
          </Form.Select>
        </Form.Group>
        <Form.Group controlId="device-chain" className="quantity wide">
          <Form.Label>Readings are worked out</Form.Label>
          <Form.Select
            size="sm"
            value={String(document["chain"] ?? "")}
            onChange={(event) => put(["chain"], event.target.value || undefined)}
          >
            {CHAINS.map(({ chain, words }) => (
              <option key={chain} value={chain}>
                {words}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        {isRecord(document["i2c"]) && (
          <ListField
            id="device-addresses"
            label="I²C addresses"
            value={
              Array.isArray(addresses)
                ? addresses.map((one) => (typeof one === "number" ? `0x${one.toString(16)}` : String(one)))
                : []
            }
            onChange={(next) =>
              put(
                ["i2c", "addresses"],
                next.map((one) => (Number.isInteger(Number(one)) ? Number(one) : one)),
              )
            }
          />
        )}
        <ListField
          id="device-cautions"
          label="Cautions, a line each"
          rows={2}
          separator={"\n"}
          className="wide"
          value={Array.isArray(cautions) ? cautions.map(String) : []}
          onChange={(next) => put(["cautions"], next.length > 0 ? next : undefined)}
        />
        {isRecord(document["supply"]) && (
          <Form.Check
            id="device-decoupling"
            label="wants a capacitor across its supply"
            checked={valueAt(document, ["supply", "wants_decoupling"]) === true}
            onChange={(event) => put(["supply", "wants_decoupling"], event.target.checked || undefined)}
          />
        )}
      </div>
      <LeadCards {...props} />
      <section aria-label="Supply and readings">
        <h3>Supply, readings and the rest</h3>
        <FigureFields {...props} part={[]} without={["leads"]} />
      </section>
    </>
  );
}
