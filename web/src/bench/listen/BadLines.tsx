import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../../api/client";
import type { Recording } from "../../api/queries";
import { Trouble } from "../../shell/States";
import { grouped } from "../../units/units";

const PAGE = 50;

/** The lines of a log that were put aside, with their numbers and why. */
export function BadLines({ recording }: { recording: Recording }) {
  const [open, setOpen] = useState(false);
  const [first, setFirst] = useState(0);
  const page = useQuery({
    queryKey: ["bad-lines", recording.id, first],
    enabled: open,
    queryFn: () =>
      body(
        client.GET("/api/recordings/{recording_id}/bad-lines", {
          params: { path: { recording_id: recording.id }, query: { first, count: PAGE } },
        }),
      ),
  });
  const many = recording.bad_lines;
  return (
    <section className="bad-lines">
      <button type="button" className="disclosure" aria-expanded={open} onClick={() => setOpen(!open)}>
        <span aria-hidden="true">{open ? "▾" : "▸"}</span> {grouped(many, 0)} line{many === 1 ? " was" : "s were"} put aside
        when “{recording.source_name}” was read
      </button>
      {open && page.isError && <Trouble error={page.error} />}
      {open && page.data && (
        <>
          <table>
            <thead>
              <tr>
                <th scope="col">line</th>
                <th scope="col">text</th>
                <th scope="col">why</th>
              </tr>
            </thead>
            <tbody>
              {page.data.lines.map((line) => (
                <tr key={line.line}>
                  <td className="figure">{grouped(line.line, 0)}</td>
                  <td>
                    <code>{line.text}</code>
                  </td>
                  <td>{line.reason}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {many > PAGE && (
            <p className="pager">
              <Button size="sm" variant="outline-primary" disabled={first === 0} onClick={() => setFirst(first - PAGE)}>
                Earlier
              </Button>
              <Button size="sm" variant="outline-primary" disabled={first + PAGE >= many} onClick={() => setFirst(first + PAGE)}>
                Later
              </Button>
            </p>
          )}
        </>
      )}
    </section>
  );
}
