import { download } from "../../shell/download";

/** The drawing as a file that stands by itself, whole and untouched by zoom or tracing. */
function standalone(svg: SVGSVGElement, width: number, height: number): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("viewBox", `0 0 ${width} ${height}`);
  copy.setAttribute("width", String(Math.round(width)));
  copy.setAttribute("height", String(Math.round(height)));
  copy.removeAttribute("class");
  copy.querySelectorAll("[tabindex]").forEach((element) => element.removeAttribute("tabindex"));
  copy.querySelectorAll("g[opacity]").forEach((element) => element.setAttribute("opacity", "1"));
  return new XMLSerializer().serializeToString(copy);
}

export function downloadSvg(svg: SVGSVGElement, name: string, width: number, height: number): void {
  download(new Blob([standalone(svg, width, height)], { type: "image/svg+xml" }), `${name}.svg`);
}

/** Twice as fine as on screen, for print. */
export async function downloadPng(svg: SVGSVGElement, name: string, width: number, height: number): Promise<void> {
  const image = new Image();
  const url = URL.createObjectURL(new Blob([standalone(svg, width, height)], { type: "image/svg+xml" }));
  try {
    image.src = url;
    await image.decode();
    const canvas = document.createElement("canvas");
    canvas.width = Math.round(width * 2);
    canvas.height = Math.round(height * 2);
    canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/png"));
    if (blob) download(blob, `${name}.png`);
  } finally {
    URL.revokeObjectURL(url);
  }
}
