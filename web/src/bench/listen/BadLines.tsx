import { useState } from "react";
import type { Recording } from "../../api/queries";
import { LinesAside } from "../../takes/LinesAside";
import { grouped } from "../../units/units";

/** The lines of a log that were put aside, with their numbers and why. */
export function BadLines({ recording }: { recording: Recording }) {
  const [open, setOpen] = useState(false);
  const many = recording.bad_lines;
  return (
    <section className="bad-lines">
      <button type="button" className="disclosure" aria-expanded={open} onClick={() => setOpen(!open)}>
        <span aria-hidden="true">{open ? "▾" : "▸"}</span> {grouped(many, 0)} line{many === 1 ? " was" : "s were"} put
        aside when “{recording.source_name}” was read
      </button>
      {open && <LinesAside of={{ recording: recording.id }} total={many} />}
    </section>
  );
}
