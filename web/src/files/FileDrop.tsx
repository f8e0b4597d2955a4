import { type DragEvent, type ReactNode, useState } from "react";
import type { Sending } from "./useSending";

interface Props {
  /** What kind of file, for those who do not see the button. */
  label: string;
  accept?: string;
  className: string;
  sending: Pick<Sending, "send">;
  /** What stands there; gets what opens the chooser. */
  children: (choose: () => void) => ReactNode;
}

/** A place to drop a file on or to choose one. */
export function FileDrop({ label, accept, className, sending, children }: Props) {
  const [over, setOver] = useState(false);
  const [chooser, setChooser] = useState<HTMLInputElement | null>(null);
  return (
    <div
      className={`${className} ${over ? "is-over" : ""}`}
      onDragOver={(event: DragEvent) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event: DragEvent) => {
        event.preventDefault();
        setOver(false);
        void sending.send(event.dataTransfer.files[0]);
      }}
    >
      <input
        ref={setChooser}
        type="file"
        className="visually-hidden"
        aria-label={label}
        accept={accept}
        onChange={(event) => {
          void sending.send(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {children(() => chooser?.click())}
    </div>
  );
}
