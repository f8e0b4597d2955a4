import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { body, client, problemOf } from "../api/client";
import { useNotices } from "../shell/Notices";
import type { Take } from "./queries";

/** A recording in every open format there is. */
export function ExportMenu({ take, channel }: { take: Take; channel: number }) {
  const formats = useQuery({ queryKey: ["formats"], queryFn: () => body(client.GET("/api/formats")) });
  const notices = useNotices();
  const [busy, setBusy] = useState("");

  async function fetchIt(name: string, address: string) {
    setBusy(name);
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(problemOf(await answer.json()).detail || "It could not be written.");
      const named = /filename="([^"]+)"/.exec(answer.headers.get("content-disposition") ?? "")?.[1];
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await answer.blob());
      link.download = named ?? `${take.name}.${name}`;
      link.click();
      window.setTimeout(() => URL.revokeObjectURL(link.href), 5_000);
    } catch (error) {
      notices.failed(error);
    } finally {
      setBusy("");
    }
  }

  return (
    <section className="panel take-panel" aria-label="Take it away">
      <div className="export-menu">
        {formats.data
          ?.filter((one) => one.writes)
          .map((one) => (
            <div key={one.name}>
              <button type="button" className="link" disabled={busy !== ""} onClick={() => void fetchIt(one.extension, `/api/takes/${take.id}/file?format=${one.name}${one.name === "wav" ? `&channel=${channel}` : ""}`)}>
                {one.label}
                {one.name === "wav" && ` of ${take.channels[channel]?.name ?? ""}`}
              </button>
              {busy === one.extension && " …"}
              <span className="quiet d-block">{one.note}</span>
            </div>
          ))}
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
