import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { body, client, problemOf } from "../api/client";
import { useNotices } from "../shell/Notices";
import { download } from "../shell/download";
import type { Take, Wanted } from "./queries";

interface Props {
  take: Take;
  /** The one in hand, for what holds only one. */
  channel: number;
  wanted: Wanted[];
  window: [number, number] | null;
}

/** A recording in every open format there is. */
export function ExportMenu({ take, channel, wanted, window: shown }: Props) {
  const formats = useQuery({ queryKey: ["formats"], queryFn: () => body(client.GET("/api/formats")) });
  const notices = useNotices();
  const [busy, setBusy] = useState("");

  const search = new URLSearchParams(wanted.map((one) => ["draw", `${one.channel}:${one.stage}`]));
  if (shown) {
    search.set("from_s", String(Math.max(0, shown[0])));
    search.set("to_s", String(shown[1]));
  }
  const asDrawn = `/api/takes/${take.id}/drawn?${search.toString()}`;

  async function fetchIt(name: string, address: string) {
    setBusy(name);
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(problemOf(await answer.json()).detail || "It could not be written.");
      const named = /filename="([^"]+)"/.exec(answer.headers.get("content-disposition") ?? "")?.[1];
      download(await answer.blob(), named ?? `${take.name}.${name}`);
    } catch (error) {
      notices.failed(error);
    } finally {
      setBusy("");
    }
  }

  return (
    <section className="panel" aria-label="Take it away">
      <div className="export-menu">
        {formats.data
          ?.filter((one) => one.writes)
          .map((one) => (
            <div key={one.name}>
              <button
                type="button"
                className="link"
                disabled={busy !== ""}
                onClick={() =>
                  void fetchIt(
                    one.extension,
                    `/api/takes/${take.id}/file?format=${one.name}${one.name === "wav" ? `&channel=${channel}` : ""}`,
                  )
                }
              >
                {one.label}
                {one.name === "wav" && ` of ${take.channels[channel]?.name ?? ""}`}
              </button>
              {busy === one.extension && " …"}
              <span className="quiet d-block">{one.note}</span>
            </div>
          ))}
        <div>
          <button
            type="button"
            className="link"
            disabled={busy !== "" || wanted.length === 0}
            onClick={() => void fetchIt("drawn", asDrawn)}
          >
            CSV as drawn
          </button>
          {busy === "drawn" && " …"}
          <span className="quiet d-block">
            {shown ? "the window shown, " : ""}every sample of what is drawn, after its stages
          </span>
        </div>
        <div>
          <a href={`/api/takes/${take.id}/description`} download>
            Description of a CSV
          </a>
          <span className="quiet d-block">channels, air, marks as JSON; keep it beside the CSV</span>
        </div>
      </div>
    </section>
  );
}
