import { useState } from "react";
import Button from "react-bootstrap/Button";
import { body, client } from "../api/client";
import { useNotices } from "../shell/Notices";

/** How long a board is waited for that is asked which program it runs, ms. */
const ANSWERS_WITHIN = 3000;

/** Asks a board which program it runs: those written here answer. Gone as soon as one did. */
export function AskBoard({ rigId }: { rigId: number }) {
  const notices = useNotices();
  const [asked, setAsked] = useState<"" | "asking" | "silent">("");

  async function ask() {
    setAsked("asking");
    try {
      await body(
        client.POST("/api/rigs/{rig_id}/line/send", { params: { path: { rig_id: rigId } }, body: { text: "?" } }),
      );
      window.setTimeout(() => setAsked("silent"), ANSWERS_WITHIN);
    } catch (error) {
      setAsked("");
      notices.failed(error);
    }
  }

  return (
    <span>
      <Button size="sm" variant="outline-primary" disabled={asked === "asking"} onClick={() => void ask()}>
        {asked === "asking" ? "Asking…" : "Ask which program it runs"}
      </Button>
      {asked === "silent" && <span className="quiet"> No answer: most likely it runs none that was written here.</span>}
    </span>
  );
}
