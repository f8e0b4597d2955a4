import type { Schemas } from "../../api/client";
import { sendFile } from "../../api/sendFile";

export type LogImport = Schemas["ImportOut"];

/** Send a log of echo times. */
export function sendLog(file: File, onProgress: (share: number) => void) {
  return sendFile<LogImport>(`/api/imports?source_name=${encodeURIComponent(file.name.slice(0, 200))}`, file, onProgress);
}
