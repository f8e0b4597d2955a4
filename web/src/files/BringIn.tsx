import { type ReactNode, useState } from "react";
import type { Air } from "../api/queries";
import { Trouble } from "../shell/States";
import { FileDrop } from "./FileDrop";
import { FoundInFile } from "./FoundInFile";
import { SendingRow } from "./SendingRow";
import type { LogFile } from "./columns";
import { type Sending, namedAs, useSending } from "./useSending";

interface Props {
  rigId: number;
  air: Air;
  sensorId?: number;
  onDone: (file: LogFile) => void;
  /** What stands there before a file is chosen; gets what opens the chooser. */
  children: (choose: () => void, sending: Sending) => ReactNode;
}

/** A file of any format becomes a recording: choose it, check how it is read, have it read. */
export function BringIn({ rigId, air, sensorId = 0, onDone, children }: Props) {
  const [file, setFile] = useState<LogFile | null>(null);
  const sending = useSending<LogFile>((chosen) => `/api/rigs/${rigId}/files?${namedAs(chosen)}`, setFile);
  if (file) {
    return (
      <FoundInFile
        key={file.key}
        file={file}
        air={air}
        sensorId={sensorId}
        onFile={setFile}
        onDone={onDone}
        onAnother={() => setFile(null)}
      />
    );
  }
  return (
    <FileDrop label="Log file" className="panel drop" sending={sending}>
      {(choose) => (
        <>
          {sending.share === null ? children(choose, sending) : <SendingRow sending={sending} then="looking into it" />}
          {sending.error !== null && <Trouble error={sending.error} />}
        </>
      )}
    </FileDrop>
  );
}
