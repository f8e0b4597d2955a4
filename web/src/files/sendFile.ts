import { ProblemError, type Schemas } from "../api/client";

/** Send a file as it is, telling how far it has come; fetch cannot tell that. */
export function sendFile<T>(
  address: string,
  file: File,
  onProgress: (share: number) => void,
): { done: Promise<T>; cancel: () => void } {
  const request = new XMLHttpRequest();
  const done = new Promise<T>((resolve, reject) => {
    request.open("POST", address);
    request.setRequestHeader("content-type", "application/octet-stream");
    request.upload.onprogress = (event) => onProgress(event.loaded / Math.max(1, event.total));
    request.onload = () => {
      const answer = parse(request.responseText);
      if (request.status === 201) resolve(answer as T);
      else reject(new ProblemError(answer as Schemas["Problem"]));
    };
    request.onerror = () =>
      reject(
        new ProblemError({
          title: "The file did not arrive",
          status: 0,
          detail: "The connection to Tick Stone’s server broke while the file was sent. Choose it again.",
          fields: [],
          kept: "Nothing was changed.",
        }),
      );
    request.onabort = () => reject(new DOMException("stopped", "AbortError"));
    request.send(file);
  });
  return { done, cancel: () => request.abort() };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return {
      title: "Tick Stone slipped",
      status: 500,
      detail: "The server’s answer made no sense.",
      fields: [],
      kept: "",
    };
  }
}
