import sharp, { type Sharp } from 'sharp';

/** A picture in memory: 8 bits for each channel, by rows. */
export interface Pixels {
  data: Buffer;
  width: number;
  height: number;
  channels: 3 | 4;
}

/** Run what a picture is to become and hold it, to make several things of it. */
export async function pixelsOf(image: Sharp): Promise<Pixels> {
  const { data, info } = await image.raw().toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height, channels: info.channels as 3 | 4 };
}

export const opened = ({ data, ...raw }: Pixels): Sharp => sharp(data, { raw });
