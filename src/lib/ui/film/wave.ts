/** The lowest and highest sample of each stretch of an item's sound, −127 … 127; null where there are none. */
export async function peaksOf(id: string): Promise<Int8Array | null> {
  const response = await fetch(`/api/items/${id}/peaks`).catch(() => null);
  return response?.ok ? new Int8Array(await response.arrayBuffer()) : null;
}

/** Make a canvas as fine as the screen, and give the pen that draws in its px; null where nothing can be drawn. */
export function penOf(
  canvas: HTMLCanvasElement | undefined,
  wide: number,
  height: number,
): CanvasRenderingContext2D | null {
  const pen = canvas?.getContext('2d');
  if (!canvas || !pen || wide === 0) return null;
  canvas.width = wide * devicePixelRatio;
  canvas.height = height * devicePixelRatio;
  pen.scale(devicePixelRatio, devicePixelRatio);
  return pen;
}

/**
 * Draw a sound, px by px.
 * @param partAt part of its length, 0 … 1, that lies at a px from the left
 */
export function drawWave(
  pen: CanvasRenderingContext2D,
  samples: Int8Array | null,
  { wide, height, colour }: { wide: number; height: number; colour: string },
  partAt: (x: number) => number,
): void {
  const style = getComputedStyle(pen.canvas);
  const middle = height / 2;
  pen.fillStyle = style.getPropertyValue('--rule');
  pen.fillRect(0, middle - 0.5, wide, 1);
  if (!samples) return;
  pen.fillStyle = style.getPropertyValue(colour);
  const count = samples.length / 2;
  for (let x = 0; x < wide; x += 1) {
    const from = Math.floor(partAt(x) * count);
    const to = Math.min(count, Math.max(from + 1, Math.floor(partAt(x + 1) * count)));
    let [low, high] = [0, 0];
    for (let stretch = from; stretch < to; stretch += 1) {
      low = Math.min(low, samples[stretch * 2]!);
      high = Math.max(high, samples[stretch * 2 + 1]!);
    }
    const top = middle - (high / 127) * middle;
    pen.fillRect(x, top, 1, Math.max(1, middle - (low / 127) * middle - top));
  }
}
