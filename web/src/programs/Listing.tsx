import { useState } from "react";
import Button from "react-bootstrap/Button";
import { download } from "../shell/download";
import { useNotices } from "../shell/Notices";
import type { Program } from "./queries";

/** A program as text, to be copied or taken away. */
export function Listing({ program }: { program: Pick<Program, "text" | "path" | "identity"> }) {
  const notices = useNotices();
  const [copied, setCopied] = useState("");
  const folder = program.path.slice(0, program.path.lastIndexOf("/"));
  const name = program.path.slice(program.path.lastIndexOf("/") + 1);

  async function copy() {
    try {
      await navigator.clipboard.writeText(program.text);
      setCopied(program.identity);
    } catch {
      notices.failed(new Error("This browser does not let a page copy. Select the text and copy it, or download it."));
    }
  }

  return (
    <section className="program-listing" aria-label="The program">
      <header>
        <code>{name}</code>
        <span className="quiet">
          in a folder <code>{folder}</code>
        </span>
        <div className="page-actions ms-auto">
          <Button size="sm" onClick={() => void copy()}>
            {copied === program.identity ? "Copied" : "Copy"}
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => download(new Blob([program.text], { type: "text/plain" }), name)}
          >
            Download
          </Button>
        </div>
      </header>
      {/* Reached by keys, so that it can be scrolled by them. */}
      <pre tabIndex={0} aria-label={`Text of ${name}`}>
        {program.text}
      </pre>
    </section>
  );
}
