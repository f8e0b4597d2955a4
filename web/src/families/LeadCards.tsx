import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { QuantityInput } from "../units/QuantityInput";
import { FigureFields } from "./FigureFields";
import { ListField, TextField } from "./TextField";
import { TakeOff } from "./TakeOff";
import { type Document, isRecord, recordsAt, textAt, valueAt, withValue } from "./document";
import { ROLES, anotherLead, withLeads } from "./leadRoles";
import type { Schema } from "./schema";
import { ABILITIES } from "./abilities";

/** Leads whose place follows from what they are. */
const TO_RAILS_OR_BUS = new Set(["supply", "ground", "cathode", "sda", "scl"]);

interface Props {
  document: Document;
  schema: Schema;
  onChange: (next: Document) => void;
}

/** A device's leads, a card each: what it is, what is printed beside it, and its figures. */
export function LeadCards({ document, schema, onChange }: Props) {
  const leads = recordsAt(document, "leads");
  return (
    <section aria-label="Leads">
      <h3>Leads</h3>
      <div className="part-cards">
        {leads.map((lead, index) => (
          <fieldset key={index} className="part-card">
            <legend className="visually-hidden">Lead {String(lead["name"])}</legend>
            <LeadFields index={index} document={document} onChange={onChange} lead={lead} />
            <FigureFields
              part={["leads", index]}
              document={document}
              schema={schema}
              onChange={onChange}
              without={isRecord(lead["output"]) ? [] : ["pulses_hz"]}
            />
            <TakeOff
              what={String(lead["name"])}
              words="Remove lead"
              onClick={() =>
                onChange(
                  withLeads(
                    document,
                    leads.filter((_, other) => other !== index),
                  ),
                )
              }
            />
          </fieldset>
        ))}
      </div>
      <Button
        size="sm"
        variant="outline-primary"
        onClick={() => onChange(withLeads(document, [...leads, anotherLead(document)]))}
      >
        Another lead
      </Button>
    </section>
  );
}

function LeadFields({
  lead,
  index,
  document,
  onChange,
}: Omit<Props, "schema"> & { lead: Record<string, unknown>; index: number }) {
  const put = (field: string, value: unknown) =>
    onChange(withValue(document, ["leads", index, field], value) as Document);
  const id = (field: string) => `lead-${index}-${field}`;
  const labels = lead["labels"];
  return (
    <div className="fields">
      <TextField id={id("name")} label="Name" value={textAt(lead, ["name"])} onChange={(name) => put("name", name)} />
      <Form.Group controlId={id("role")} className="quantity wide">
        <Form.Label>Is</Form.Label>
        <Form.Select
          size="sm"
          value={textAt(lead, ["role"])}
          onChange={(event) => {
            const role = event.target.value;
            onChange(
              withLeads(
                document,
                recordsAt(document, "leads").map((one, other) => (other === index ? { ...one, role } : one)),
              ),
            );
          }}
        >
          {Object.entries(ROLES).map(([role, words]) => (
            <option key={role} value={role}>
              {words}
            </option>
          ))}
        </Form.Select>
      </Form.Group>
      <ListField
        id={id("labels")}
        label="Printed beside it"
        value={Array.isArray(labels) ? labels.map(String) : []}
        onChange={(next) => put("labels", next)}
      />
      {!TO_RAILS_OR_BUS.has(textAt(lead, ["role"])) && (
        <Form.Group controlId={id("needs")} className="quantity">
          <Form.Label>Its pin needs</Form.Label>
          <Form.Select
            size="sm"
            value={textAt(lead, ["needs"])}
            onChange={(event) => put("needs", event.target.value || undefined)}
          >
            <option value="">the usual</option>
            {ABILITIES.map(({ ability, words }) => (
              <option key={ability} value={ability}>
                {words}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      )}
      <Details lead={lead} index={index} document={document} onChange={onChange} />
      <Form.Check
        id={id("optional")}
        label="may stay open"
        checked={lead["is_optional"] === true}
        onChange={(event) => put("is_optional", event.target.checked || undefined)}
      />
    </div>
  );
}

/** What is asked of some roles only. */
function Details({
  lead,
  index,
  document,
  onChange,
}: Omit<Props, "schema"> & { lead: Record<string, unknown>; index: number }) {
  const put = (path: string[], value: unknown) =>
    onChange(withValue(document, ["leads", index, ...path], value) as Document);
  const id = (field: string) => `lead-${index}-${field}`;
  const analogue = lead["analogue"];
  if (isRecord(lead["output"])) {
    return (
      <Form.Group controlId={id("drive")} className="quantity">
        <Form.Label>Drives</Form.Label>
        <Form.Select
          size="sm"
          value={textAt(lead, ["output", "drive"])}
          onChange={(event) => put(["output", "drive"], event.target.value)}
        >
          <option value="push_pull">both ways</option>
          <option value="open_drain">only down to ground</option>
        </Form.Select>
      </Form.Group>
    );
  }
  if (isRecord(analogue)) {
    const supply = valueAt(analogue, ["at_supply_v"]);
    return (
      <>
        <Form.Check
          id={id("ratiometric")}
          label="follows its supply"
          checked={analogue["ratiometric"] === true}
          onChange={(event) =>
            put(["analogue"], {
              ...analogue,
              ratiometric: event.target.checked,
              at_supply_v: event.target.checked ? supply || 5 : undefined,
            })
          }
        />
        {analogue["ratiometric"] === true && (
          <QuantityInput
            label="its volts stand for a supply of"
            unit="V"
            value={Number(supply) || null}
            onChange={(next) => next !== null && put(["analogue", "at_supply_v"], next)}
          />
        )}
      </>
    );
  }
  if (isRecord(lead["emitter"])) {
    return (
      <Form.Check
        id={id("infrared")}
        label="infrared"
        checked={valueAt(lead, ["emitter", "is_infrared"]) === true}
        onChange={(event) => put(["emitter", "is_infrared"], event.target.checked || undefined)}
      />
    );
  }
  return null;
}
