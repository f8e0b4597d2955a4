import { download, pictureName } from "../shell/download";

/** All plots inside an element, one below the other with their names, as one PNG. */
export function savePicture(holder: HTMLElement, name: string): void {
  const rows = [...holder.querySelectorAll<HTMLElement>(".take-plot-row")];
  const canvases = rows.map((row) => row.querySelector("canvas"));
  const ratio = window.devicePixelRatio || 1;
  const heading = 22 * ratio;
  const width = Math.max(0, ...canvases.map((canvas) => canvas?.width ?? 0));
  const height = canvases.reduce((sum, canvas) => sum + (canvas?.height ?? 0) + heading, 0);
  const picture = document.createElement("canvas");
  picture.width = width;
  picture.height = height;
  const c = picture.getContext("2d");
  if (!c || width === 0) return;
  const style = getComputedStyle(holder);
  c.fillStyle = style.getPropertyValue("--ts-sheet").trim();
  c.fillRect(0, 0, width, height);
  let top = 0;
  rows.forEach((row, n) => {
    const canvas = canvases[n];
    if (!canvas) return;
    c.fillStyle = style.getPropertyValue("--ts-ink").trim();
    c.font = `bold ${13 * ratio}px "Atkinson Hyperlegible Next", sans-serif`;
    c.fillText(row.querySelector(".take-plot-name")?.textContent ?? "", 84 * ratio, top + heading - 6 * ratio);
    c.drawImage(canvas, 0, top + heading);
    top += heading + canvas.height;
  });
  picture.toBlob((blob) => {
    if (blob) download(blob, pictureName(name));
  });
}
