import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { Trouble } from "../shell/States";
import { grouped } from "../units/units";
import type { Take } from "./queries";

const PAGE = 50;

/** The lines of a recording that were not plain data, with their place. */
export function TakeLines({ take }: { take: Take }) {
  const [first, setFirst] = useState(0);
  const page = useQuery({
    queryKey: ["take-lines", take.id, first],
    queryFn: () => body(client.GET("/api/takes/{take_id}/bad-lines", { params: { path: { take_id: take.id }, query: { first, count: PAGE } } })),
  });
  return (
    <section className="panel take-panel bad-lines" aria-label="Lines kept aside">
      {page.isError && <Trouble error={page.error} />}
      <table>
        <thead>
          <tr>
            <th scope="col">line</th>
            <th scope="col">text</th>
            <th scope="col">why</th>
          </tr>
        </thead>
        <tbody>
          {page.data?.lines.map((line) => (
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
      {take.bad_lines > PAGE && (
        <p className="pager">
          <Button size="sm" variant="outline-primary" disabled={first === 0} onClick={() => setFirst(first - PAGE)}>
            Earlier
          </Button>
          <Button size="sm" variant="outline-primary" disabled={first + PAGE >= take.bad_lines} onClick={() => setFirst(first + PAGE)}>
            Later
          </Button>
        </p>
      )}
    </section>
  );
}
