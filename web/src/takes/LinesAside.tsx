import { AsideTable } from "./AsideTable";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { Trouble } from "../shell/States";

const PAGE = 50;

interface Props {
  of: { take: number } | { recording: number };
  total: number;
}

/** Lines that were put aside, with their numbers and why, a page at a time. */
export function LinesAside({ of, total }: Props) {
  const [first, setFirst] = useState(0);
  const query = { first, count: PAGE };
  const page = useQuery({
    queryKey: ["bad-lines", of, first],
    queryFn: () =>
      "take" in of
        ? body(client.GET("/api/takes/{take_id}/bad-lines", { params: { path: { take_id: of.take }, query } }))
        : body(
            client.GET("/api/recordings/{recording_id}/bad-lines", {
              params: { path: { recording_id: of.recording }, query },
            }),
          ),
  });
  if (page.isError) return <Trouble error={page.error} />;
  if (!page.data) return null;
  return (
    <>
      <AsideTable lines={page.data.lines} />
      {total > PAGE && (
        <p className="pager">
          <Button size="sm" variant="outline-primary" disabled={first === 0} onClick={() => setFirst(first - PAGE)}>
            Earlier
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            disabled={first + PAGE >= total}
            onClick={() => setFirst(first + PAGE)}
          >
            Later
          </Button>
        </p>
      )}
    </>
  );
}
