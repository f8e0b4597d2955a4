/** Hands the browser a file to keep. */
export function download(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** What a picture of something is kept as. */
export const pictureName = (name: string) => `${name.replace(/[^A-Za-z0-9]+/g, "-")}.png`;
