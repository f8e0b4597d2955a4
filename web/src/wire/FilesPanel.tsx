import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { type Wiring, useWiringChanges } from "./queries";

/** The wiring as files: out as JSON and CSV, in as either. */
export function FilesPanel({ wiring, onDone }: { wiring: Wiring; onDone: () => void }) {
  const [file, setFile] = useState<File | null>(null);
  const changes = useWiringChanges(wiring);
  const base = `/api/rigs/${wiring.rig_id}/wiring`;

  async function take() {
    if (file && (await changes.importText(await file.text()))) onDone();
  }

  return (
    <section className="panel files-panel" aria-label="Files">
      {wiring.board && (
        <div>
          <h2>Take away</h2>
          <p className="file-links">
            <a href={`${base}/file`} download="wiring.json">
              whole wiring, JSON
            </a>
            <a href={`${base}/netlist.csv`} download="netlist.csv">
              netlist, CSV
            </a>
            <a href={`${base}/bill.csv`} download="bill.csv">
              bill of materials, CSV
            </a>
          </p>
        </div>
      )}
      <div>
        <h2>Bring in</h2>
        <Form.Group controlId="wiring-file">
          <Form.Label>A wiring as JSON, or a netlist as CSV</Form.Label>
          <Form.Control
            size="sm"
            type="file"
            accept=".json,.csv"
            onChange={(event) => setFile((event.target as HTMLInputElement).files?.[0] ?? null)}
          />
        </Form.Group>
        <div className="panel-actions">
          <Button size="sm" disabled={!file} onClick={() => void take()}>
            Bring it in
          </Button>
          <Button size="sm" variant="outline-primary" onClick={onDone}>
            Cancel
          </Button>
        </div>
        <p className="field-hint">
          JSON brings its board and devices along; CSV rewires the devices that are here. A file with a mistake changes
          nothing.
        </p>
      </div>
    </section>
  );
}
