import { useState } from "react";
import Button from "react-bootstrap/Button";
import { download } from "../shell/download";
import { useNotices } from "../shell/Notices";
import type { ProgramFile } from "./queries";

/** Files of a program as text, each to be copied or taken away. */
export function Listing({ files }: { files: ProgramFile[] }) {
  const notices = useNotices();
  const [copied, setCopied] = useState("");
  const [chosen, setChosen] = useState(0);
  const file = files[Math.min(chosen, files.length - 1)] as ProgramFile;
  const folder = file.path.slice(0, Math.max(0, file.path.lastIndexOf("/")));

  async function copy() {
    try {
      await navigator.clipboard.writeText(file.text);
      setCopied(file.text);
    } catch {
      notices.failed(new Error("This browser does not let a page copy. Select the text and copy it, or download it."));
    }
  }

  return (
    <section className="program-listing" aria-label="The program">
      <header>
        {files.length > 1 ? (
          <nav className="stage-tabs" aria-label="Files">
            {files.map((one, place) => (
              <button
                key={one.path}
                type="button"
                className={one === file ? "is-current" : ""}
                aria-pressed={one === file}
                onClick={() => setChosen(place)}
              >
                {nameOf(one)}
              </button>
            ))}
          </nav>
        ) : (
          <code>{nameOf(file)}</code>
        )}
        {folder && (
          <span className="quiet">
            {files.length > 1 ? "together in" : "in"} a folder <code>{folder}</code>
          </span>
        )}
        <div className="page-actions ms-auto">
          <Button size="sm" onClick={() => void copy()}>
            {copied === file.text ? "Copied" : "Copy"}
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => download(new Blob([file.text], { type: "text/plain" }), nameOf(file))}
          >
            Download
          </Button>
        </div>
      </header>
      {/* Reached by keys, so that it can be scrolled by them. */}
      <pre tabIndex={0} aria-label={`Text of ${nameOf(file)}`}>
        {file.text}
      </pre>
    </section>
  );
}

const nameOf = (file: ProgramFile) => file.path.slice(file.path.lastIndexOf("/") + 1);
