import { useRef, useState } from "react";
import { sendFile } from "./sendFile";

export interface Sending {
  /** How much is sent, 0 to 1; null when nothing is on its way. */
  share: number | null;
  error: unknown;
  setError: (error: unknown) => void;
  send: (file: File | undefined) => Promise<void>;
  stop: () => void;
}

/** Sends a file to `addressOf` it; `onSent` gets the server's answer. */
export function useSending<T>(addressOf: (file: File) => string, onSent: (answer: T) => void | Promise<void>): Sending {
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const cancel = useRef<(() => void) | null>(null);

  async function send(file: File | undefined) {
    if (!file) return;
    setError(null);
    setShare(0);
    const sending = sendFile<T>(addressOf(file), file, setShare);
    cancel.current = sending.cancel;
    try {
      await onSent(await sending.done);
    } catch (failure) {
      if (!(failure instanceof DOMException)) setError(failure);
    } finally {
      setShare(null);
    }
  }
  return { share, error, setError, send, stop: () => cancel.current?.() };
}

/** The part of an address that carries a file's name. */
export function namedAs(file: File): string {
  return `source_name=${encodeURIComponent(file.name.slice(0, 200))}`;
}
