import sharp from 'sharp';

/** What guests of reading rooms see and take, made from a large picture of ours; run apart. */
interface Wish {
  /** A picture of the cache. */
  from: string;
  /** Where it goes; it is not there before. */
  to: string;
}

/** A smaller WebP. @param edge longest, px */
export async function guestWebp({ from, to, edge }: Wish & { edge: number }): Promise<void> {
  await sharp(from)
    .resize({ width: edge, height: edge, fit: 'inside', withoutEnlargement: true })
    .webp({ quality: 82 })
    .toFile(to);
}

/** A JPEG in sRGB, on white. */
export async function guestJpeg({ from, to }: Wish): Promise<void> {
  await sharp(from)
    .flatten({ background: '#ffffff' })
    .jpeg({ quality: 90 })
    .withIccProfile('srgb')
    .toFile(to);
}
