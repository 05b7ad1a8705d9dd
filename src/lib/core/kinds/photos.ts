import { format, type Format, type Head } from './format';

/** Extensions makers give their raw files; the bytes mostly look like TIFF. */
export const RAW_EXTENSIONS =
  '3fr arw cr2 cr3 crw dcr dng erf fff gpr iiq k25 kdc mef mos mrw nef nrw orf pef raf raw rw2 rwl sr2 srf srw x3f';
const RAW = new Set(RAW_EXTENSIONS.split(' '));

const isRaw = (head: Head): boolean =>
  (head.isTiff && RAW.has(head.extension)) ||
  /^II(RO|RS|U\0)$/.test(head.ascii(0, 4)) ||
  head.at(0, 'FUJIFILM') ||
  head.at(0, 'FOVb') ||
  head.at(0, '\0MRM') ||
  head.at(6, 'HEAPCCDR') ||
  head.brand === 'crx ';

const pixels = { picture: 'pixels', look: 'picture' } as const;
const frame = { picture: 'frame', look: 'picture' } as const;

export const PHOTOS: readonly Format[] = [
  format('jpeg', 'photo', 'image/jpeg', 'JPEG', 'jpg jpeg jpe jfif mpo', {
    ...pixels,
    embeds: 'exif',
    looks: (head) => head.starts(0xff, 0xd8, 0xff),
  }),
  format('png', 'photo', 'image/png', 'PNG', 'png apng', {
    ...pixels,
    embeds: 'exif',
    looks: (head) => head.starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
  }),
  format('webp', 'photo', 'image/webp', 'WebP', 'webp', {
    ...pixels,
    embeds: 'exif',
    looks: (head) => head.riff === 'WEBP',
  }),
  format('avif', 'photo', 'image/avif', 'AVIF', 'avif avifs', {
    ...pixels,
    embeds: 'exif',
    looks: (head) => /^avi[fs]$/.test(head.brand),
  }),
  format('heic', 'photo', 'image/heic', 'HEIC', 'heic heif hif', {
    picture: 'heif',
    look: 'picture',
    embeds: 'exif',
    looks: (head) => /^(heic|heix|heim|heis|hevc|hevx|mif1|msf1)$/.test(head.brand),
  }),
  format('raw', 'photo', 'image/x-raw', 'Camera raw', RAW_EXTENSIONS, {
    picture: 'raw',
    look: 'picture',
    looks: isRaw,
    loss: 'It is shown as the camera developed it, or as LibRaw does with the camera’s white balance, where that is small or one asks.',
  }),
  format('tiff', 'photo', 'image/tiff', 'TIFF', 'tif tiff btf dng', {
    picture: 'pixels',
    look: 'pages',
    embeds: 'exif',
    looks: (head) => head.isTiff,
  }),
  format('gif', 'photo', 'image/gif', 'GIF', 'gif', {
    ...pixels,
    looks: (head) => head.at(0, 'GIF8'),
  }),
  format('jxl', 'photo', 'image/jxl', 'JPEG XL', 'jxl', {
    ...frame,
    reader: 'jpegxl_pipe',
    looks: (head) => head.starts(0xff, 0x0a) || head.at(4, 'JXL '),
  }),
  format('jp2', 'photo', 'image/jp2', 'JPEG 2000', 'jp2 jpx jpf j2k j2c jpc', {
    ...frame,
    reader: 'j2k_pipe',
    looks: (head) => head.at(4, 'jP  ') || head.starts(0xff, 0x4f, 0xff, 0x51),
  }),
  format('psd', 'photo', 'image/vnd.adobe.photoshop', 'Layered picture', 'psd psb', {
    ...frame,
    reader: 'psd_pipe',
    looks: (head) => head.at(0, '8BPS'),
    loss: 'Its layers are shown as its own flattened picture shows them.',
  }),
  format('bmp', 'photo', 'image/bmp', 'BMP', 'bmp dib', {
    ...frame,
    reader: 'bmp_pipe',
    looks: (head) => head.at(0, 'BM') && head.bytes.length > 26 && head.bytes[14]! >= 12,
  }),
  format('exr', 'photo', 'image/x-exr', 'OpenEXR', 'exr', {
    ...frame,
    reader: 'exr_pipe',
    looks: (head) => head.starts(0x76, 0x2f, 0x31, 0x01),
    loss: 'Lights brighter than white are cut off.',
  }),
  format('hdr', 'photo', 'image/vnd.radiance', 'Radiance', 'hdr rgbe', {
    looks: (head) => /^#\?(RADIANCE|RGBE)/.test(head.ascii(0, 10)),
  }),
  format('ppm', 'photo', 'image/x-portable-pixmap', 'PPM', 'ppm pnm', {
    ...frame,
    reader: 'ppm_pipe',
    looks: (head) => /^P[36][\s#]/.test(head.ascii(0, 3)),
  }),
  format('pgm', 'photo', 'image/x-portable-graymap', 'PGM', 'pgm pnm', {
    ...frame,
    reader: 'pgm_pipe',
    looks: (head) => /^P[25][\s#]/.test(head.ascii(0, 3)),
  }),
  format('pbm', 'photo', 'image/x-portable-bitmap', 'PBM', 'pbm pnm', {
    ...frame,
    reader: 'pbm_pipe',
    looks: (head) => /^P[14][\s#]/.test(head.ascii(0, 3)),
  }),
  format('ico', 'photo', 'image/vnd.microsoft.icon', 'Icon', 'ico', {
    ...frame,
    reader: 'ico',
    looks: (head) => head.starts(0, 0, 1, 0) && head.bytes[4] !== 0 && head.bytes[5] === 0,
  }),
  format('xcf', 'photo', 'image/x-xcf', 'Layered drawing', 'xcf', {
    looks: (head) => head.at(0, 'gimp xcf'),
  }),
];

/** Has no signature at its beginning: its name and a plausible head must do. */
export const TGA: Format = format('tga', 'photo', 'image/x-tga', 'TGA', 'tga', {
  ...frame,
  reader: 'image2pipe',
  looks: ({ bytes, extension }) =>
    extension === 'tga' && [1, 2, 3, 9, 10, 11].includes(bytes[2] ?? 0) && (bytes[1] ?? 2) <= 1,
});
