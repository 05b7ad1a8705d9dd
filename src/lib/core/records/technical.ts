import { anyText, firstText, tagNumber, tagText, type FileTags } from './mapping';

/** What the file says of how it was made; units in the names where they are not plain. */
export interface Technical {
  make?: string;
  model?: string;
  /** Make and model as one says them. */
  camera?: string;
  lens?: string;
  /** mm */
  focalLength?: number;
  /** f-number */
  aperture?: number;
  /** seconds */
  exposure?: number;
  iso?: number;
  colourSpace?: string;
  /** px per inch */
  resolution?: number;
  /** frames per second */
  frameRate?: number;
  timecode?: string;
  videoCodec?: string;
  audioCodec?: string;
  /** Hz */
  sampleRate?: number;
  channels?: number;
  /** 0 … 100 in the sharpest parts */
  sharpness?: number;
  /** Mean light, and what is lost at its ends; % */
  brightness?: number;
  lostInWhite?: number;
  lostInBlack?: number;
  videoProfile?: string;
  /** bits of one channel */
  bitDepth?: number;
  frameTiming?: 'steady' | 'variable';
  frames?: number;
  /** Curve of light: PQ (SMPTE ST 2084) or HLG (ARIB STD-B67). */
  dynamicRange?: 'PQ' | 'HLG';
  /** How channels are laid out: mono, stereo, 5.1 … */
  soundLayout?: string;
  /** Of sound and subtitles, as the file tells them (ISO 639). */
  languages?: string[];
  chapters?: number;
  /** Integrated loudness (EBU R 128), LUFS; highest true peak, dBTP */
  loudness?: number;
  truePeak?: number;
  pages?: number;
  /** What shows through it. */
  transparency?: 'alpha channel';
  /** The file holds an IPTC IIM block. */
  iim?: boolean;
  /** Wall clock the camera told before its clock was corrected on the way in. */
  clockSaid?: string;
}

const makeOf = (tags: FileTags): string =>
  firstText(tags, 'IFD0:Make', 'XMP-tiff:Make', 'QuickTime:Make', 'Keys:Make') ||
  anyText(tags, 'Make');
const modelOf = (tags: FileTags): string =>
  firstText(tags, 'IFD0:Model', 'XMP-tiff:Model', 'QuickTime:Model', 'Keys:Model') ||
  anyText(tags, 'Model');

/** A lens has a name; numbers by which a maker knows it are none. */
export function lensName(text: string): string {
  return /^[\d\s./-]*$/.test(text) || /^(unknown|n\/a|none|no lens|\(?manual)/i.test(text)
    ? ''
    : text;
}

const lensOf = (tags: FileTags): string =>
  [
    tagText(tags, 'ExifIFD:LensModel'),
    tagText(tags, 'XMP-exifEX:LensModel'),
    anyText(tags, 'LensModel'),
    tagText(tags, 'XMP-aux:Lens'),
  ]
    .map(lensName)
    .find(Boolean) ?? '';

function cameraName(tags: FileTags): string {
  const make = makeOf(tags);
  const model = modelOf(tags);
  const firstWord = make.split(/\s+/)[0] ?? '';
  const repeated = firstWord !== '' && model.toLowerCase().startsWith(firstWord.toLowerCase());
  return repeated || !make ? model : `${make} ${model}`.trim();
}

/** Technical data of a file from its tags; only what is there. */
export function technicalFromTags(tags: FileTags): Technical {
  const perCentimetre = tagNumber(tags, 'IFD0:ResolutionUnit') === 3;
  const density = tagNumber(tags, 'IFD0:XResolution') ?? tagNumber(tags, 'JFIF:XResolution');
  // Values of Exif ColorSpace; the second under the name of IEC 61966-2-5.
  const spaces: Record<string, string> = { '1': 'sRGB', '2': 'opRGB', '65535': 'Uncalibrated' };
  const profile = firstText(tags, 'ICC_Profile:ProfileDescription');
  const found: Partial<Record<keyof Technical, string | number | boolean | null>> = {
    make: makeOf(tags),
    model: modelOf(tags),
    camera: cameraName(tags),
    lens: lensOf(tags),
    focalLength: tagNumber(tags, 'ExifIFD:FocalLength'),
    aperture: tagNumber(tags, 'ExifIFD:FNumber'),
    exposure: tagNumber(tags, 'ExifIFD:ExposureTime'),
    iso: tagNumber(tags, 'ExifIFD:ISO'),
    colourSpace: profile || (spaces[tagText(tags, 'ExifIFD:ColorSpace')] ?? ''),
    resolution: density === null ? null : Math.round(perCentimetre ? density * 2.54 : density),
    timecode:
      firstText(
        tags,
        'XMP-xmpDM:StartTimecodeTimeValue',
        'XMP-xmpDM:AltTimecodeTimeValue',
        'QuickTime:StartTimecode',
      ) || null,
    pages: tagNumber(tags, 'PDF:PageCount'),
    iim: Object.keys(tags).some((tag) => tag.startsWith('IPTC:')) ? true : null,
  };
  const kept = Object.entries(found).filter(([, value]) => value !== null && value !== '');
  return Object.fromEntries(kept) as Technical;
}

/** `1/500 s`, `2.5 s` */
export function formatExposure(seconds: number): string {
  return seconds < 0.4 && seconds > 0
    ? `1/${Math.round(1 / seconds)} s`
    : `${+seconds.toFixed(1)} s`;
}
