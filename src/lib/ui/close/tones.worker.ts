import { clearIn, exposure, greyOf, histogramOf, lostIn, type Raster } from '#core/pixels/measure';

/** px; more do not change what is counted by much. */
const EDGE = 720;
/** Colours of what is lost: no picture has them as its own by chance. */
const LOST = { black: [38, 110, 230, 255], white: [225, 40, 40, 255] };

/** What is lost in black and in white, in colours; clear elsewhere. */
async function lostOf(raster: Raster): Promise<Blob> {
  const { data, width, height } = greyOf(raster);
  const isClear = clearIn(raster);
  const canvas = new OffscreenCanvas(width, height);
  const pen = canvas.getContext('2d')!;
  const image = pen.createImageData(width, height);
  for (let at = 0; at < data.length; at += 1) {
    const lost = lostIn(data[at]!);
    if (lost && !isClear(at)) image.data.set(LOST[lost], at * 4);
  }
  pen.putImageData(image, 0, 0);
  return canvas.convertToBlob({ type: 'image/png' });
}

self.onmessage = async ({ data }: MessageEvent<{ id: number; picture: string }>) => {
  const { id, picture } = data;
  try {
    const image = await createImageBitmap(await (await fetch(picture)).blob());
    const scale = Math.min(1, EDGE / Math.max(image.width, image.height));
    const [width, height] = [
      Math.max(1, Math.round(image.width * scale)),
      Math.max(1, Math.round(image.height * scale)),
    ];
    const pen = new OffscreenCanvas(width, height).getContext('2d')!;
    pen.drawImage(image, 0, 0, width, height);
    const { data: pixels } = pen.getImageData(0, 0, width, height);
    const raster = { data: pixels, width, height, channels: 4 };
    const { black, white } = exposure(raster);
    const histogram = histogramOf(pixels, 4);
    self.postMessage({ id, tones: { histogram, black, white, lost: await lostOf(raster) } });
  } catch {
    self.postMessage({ id, tones: null });
  }
};
