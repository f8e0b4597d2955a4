/** Hatches a stretch in which nothing came, and writes how long it was when there is room. Pixels of the canvas. */
export function hatch(
  ctx: CanvasRenderingContext2D,
  from: number,
  to: number,
  top: number,
  height: number,
  colour: string,
  words: string,
  pixel: number,
): void {
  const width = Math.max(2 * pixel, to - from);
  ctx.save();
  ctx.beginPath();
  ctx.rect(from, top, width, height);
  ctx.clip();
  ctx.strokeStyle = colour;
  ctx.lineWidth = pixel;
  ctx.setLineDash([]);
  ctx.globalAlpha = 0.55;
  ctx.beginPath();
  for (let x = from - height; x < from + width; x += 8 * pixel) {
    ctx.moveTo(x, top + height);
    ctx.lineTo(x + height, top);
  }
  ctx.stroke();
  ctx.globalAlpha = 1;
  ctx.font = `${12 * pixel}px "Atkinson Hyperlegible Next", sans-serif`;
  if (ctx.measureText(words).width + 8 * pixel < width) {
    ctx.fillStyle = colour;
    ctx.textAlign = "center";
    ctx.textBaseline = "bottom";
    ctx.fillText(words, from + width / 2, top + height - 3 * pixel);
  }
  ctx.restore();
}
