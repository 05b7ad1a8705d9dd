import { ACCESS, ACCESS_LABELS } from '../access/access';
import { FORMAT_KEYS, formatName, KIND_WORDS, KINDS } from '../kinds/kinds';
import type { Field, FieldType, Store, Use } from './field';
import { IPTC_OLDER } from './namespaces';

/**
 * The registry: every field one can see, search, sort, group, count, describe, name files by and export. Adding a
 * field is one entry here. Labels and homes of the record follow the IPTC Photo Metadata Standard 2023.1.
 */
type Part = Field['part'];
type More = Omit<Partial<Field>, 'key' | 'label' | 'type' | 'part' | 'store' | 'uses'>;

/** An entry: key, label, type, where it is kept, what it can be used for, and what else there is to say. */
const entry =
  <P extends Part>(part: P) =>
  <const K extends string, const T extends FieldType>(
    key: K,
    label: string,
    type: T,
    store: Store,
    uses: string,
    more: More = {},
  ): Field & { key: K; type: T; part: P } => ({
    key,
    label,
    type,
    part,
    store,
    uses: uses.split(' ').filter(Boolean) as Use[],
    ...more,
  });
const described = entry('record');
const read = entry('technical');
const known = entry('archive');

/** Of a text that files hold in several languages: what it says in others than the archive's own (XMP part 1, 8.2.2.4). */
const inLanguages = <const K extends string>(
  key: K,
  label: string,
  languagesOf: string,
  xmp: string,
) =>
  described(key, `${label} in other languages`, 'languages', DESCRIBED, 'edit words', {
    languagesOf,
    xmp,
    most: 4000,
  });

const column = (name: string): Store => ({ column: name });
const DESCRIBED: Store = { json: 'record' };
const READ: Store = { json: 'technical' };
const MADE: Store = { made: true };
/** A value of one of the IPTC NewsCodes vocabularies. */
const cv = (vocabulary: string, key: string, label: string) => ({
  key: `http://cv.iptc.org/newscodes/${vocabulary}/${key}`,
  label,
});

export const TABLE = [
  // The record, as people describe it.
  described('title', 'Title', 'text', column('i.title'), 'sort edit name words', {
    most: 2000,
    xmp: 'XMP-dc:Title',
    pdf: 'PDF:Title',
    iim: { tag: 'IPTC:ObjectName', limit: 64 },
  }),
  described('caption', 'Caption', 'long-text', column('i.caption'), 'edit words', {
    most: 20000,
    exif: 'IFD0:ImageDescription',
    xmp: 'XMP-dc:Description',
    pdf: 'PDF:Subject',
    iim: { tag: 'IPTC:Caption-Abstract', limit: 2000 },
  }),
  described('creator', 'Creator', 'names', column('i.creator'), 'group count edit name words', {
    many: true,
    most: 500,
    says: 'by',
    exif: 'IFD0:Artist',
    xmp: 'XMP-dc:Creator',
    pdf: 'PDF:Author',
    iim: { tag: 'IPTC:By-line', limit: 32 },
  }),
  described(
    'creditLine',
    'Credit line',
    'text',
    column('i.credit_line'),
    'sort group count edit name words',
    {
      most: 2000,
      says: 'credited to',
      has: 'credited',
      lacks: 'not yet credited',
      xmp: `${IPTC_OLDER}:Credit`,
      iim: { tag: 'IPTC:Credit', limit: 32 },
    },
  ),
  described(
    'copyrightNotice',
    'Copyright notice',
    'text',
    column('i.copyright_notice'),
    'count edit name',
    {
      most: 4000,
      exif: 'IFD0:Copyright',
      xmp: 'XMP-dc:Rights',
      iim: { tag: 'IPTC:CopyrightNotice', limit: 128 },
    },
  ),
  described('terms', 'Terms', 'ref', MADE, 'count edit words', {
    of: 'term',
    many: true,
    most: 200,
    says: 'about',
    has: 'with terms',
    lacks: 'without terms',
    xmp: 'XMP-dc:Subject',
    pdf: 'PDF:Keywords',
    iim: { tag: 'IPTC:Keywords', limit: 64 },
  }),
  described('rating', 'Rating', 'number', column('i.rating'), 'sort group count edit', {
    xmp: 'XMP-xmp:Rating',
  }),
  described('stage', 'Stage', 'ref', column('i.stage_id'), 'sort group count edit name', {
    of: 'stage',
    most: 200,
    says: 'at stage',
    has: 'at any stage',
    lacks: 'at no stage yet',
    xmp: 'XMP-xmp:Label',
  }),
  described('taken', 'Taken', 'date', column('i.taken_from'), 'sort group count edit name', {
    has: 'with a date',
    lacks: 'without a date',
    exif: 'ExifIFD:DateTimeOriginal',
    xmp: `${IPTC_OLDER}:DateCreated`,
    iim: { tag: 'IPTC:DateCreated', limit: 8 },
  }),
  described('headline', 'Headline', 'text', DESCRIBED, 'edit name words', {
    most: 2000,
    xmp: `${IPTC_OLDER}:Headline`,
    iim: { tag: 'IPTC:Headline', limit: 256 },
  }),
  described('altText', 'Alt text', 'long-text', DESCRIBED, 'edit words', {
    most: 2000,
    has: 'with an alt text',
    lacks: 'without an alt text',
    xmp: 'XMP-iptcCore:AltTextAccessibility',
  }),
  described('persons', 'Persons shown', 'names', DESCRIBED, 'group count edit name words', {
    many: true,
    most: 500,
    says: 'showing',
    has: 'with persons named',
    lacks: 'without persons named',
    xmp: 'XMP-iptcExt:PersonInImage',
  }),
  described('organisations', 'Organisations shown', 'names', DESCRIBED, 'count edit words', {
    many: true,
    most: 500,
    has: 'with organisations named',
    lacks: 'without organisations named',
    xmp: 'XMP-iptcExt:OrganisationInImageName',
  }),
  described('event', 'Event', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 2000,
    has: 'with an event',
    lacks: 'without an event',
    xmp: 'XMP-iptcExt:Event',
  }),
  described('sublocation', 'Sublocation shown', 'text', DESCRIBED, 'count edit name words', {
    most: 500,
    xmp: 'XMP-iptcExt:LocationShownSublocation',
  }),
  described('city', 'City shown', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 500,
    xmp: 'XMP-iptcExt:LocationShownCity',
  }),
  described('state', 'Province or state shown', 'text', DESCRIBED, 'count edit name words', {
    most: 500,
    xmp: 'XMP-iptcExt:LocationShownProvinceState',
  }),
  described('country', 'Country shown', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 500,
    xmp: 'XMP-iptcExt:LocationShownCountryName',
  }),
  described('createdSublocation', 'Sublocation created', 'text', DESCRIBED, 'edit name', {
    most: 500,
    xmp: 'XMP-iptcCore:Location',
    iim: { tag: 'IPTC:Sub-location', limit: 32 },
  }),
  described('createdCity', 'City created', 'text', DESCRIBED, 'count edit name', {
    most: 500,
    xmp: `${IPTC_OLDER}:City`,
    iim: { tag: 'IPTC:City', limit: 32 },
  }),
  described('createdState', 'Province or state created', 'text', DESCRIBED, 'edit name', {
    most: 500,
    xmp: `${IPTC_OLDER}:State`,
    iim: { tag: 'IPTC:Province-State', limit: 32 },
  }),
  described('createdCountry', 'Country created', 'text', DESCRIBED, 'count edit name', {
    most: 500,
    xmp: `${IPTC_OLDER}:Country`,
    iim: { tag: 'IPTC:Country-PrimaryLocationName', limit: 64 },
  }),
  described('genre', 'Genre', 'text', DESCRIBED, 'group count edit', {
    most: 200,
    xmp: 'XMP-iptcCore:IntellectualGenre',
  }),
  described('scene', 'Scene codes', 'names', DESCRIBED, 'count edit', {
    many: true,
    most: 6,
    has: 'with scene codes',
    lacks: 'without scene codes',
    xmp: 'XMP-iptcCore:Scene',
  }),
  described('shotScene', 'Scene', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 200,
    has: 'with a scene',
    lacks: 'without a scene',
    xmp: 'XMP-xmpDM:Scene',
  }),
  described('shot', 'Shot', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 200,
    has: 'with a shot',
    lacks: 'without a shot',
    xmp: 'XMP-xmpDM:ShotName',
  }),
  described('take', 'Take', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 9,
    whole: true,
    has: 'with a take',
    lacks: 'without a take',
    xmp: 'XMP-xmpDM:TakeNumber',
  }),
  described('subjectCodes', 'Subject codes', 'names', DESCRIBED, 'count edit', {
    many: true,
    most: 20,
    has: 'with subject codes',
    lacks: 'without subject codes',
    xmp: 'XMP-iptcCore:SubjectCode',
  }),
  described('instructions', 'Instructions', 'long-text', DESCRIBED, 'edit words', {
    most: 4000,
    has: 'with instructions',
    lacks: 'without instructions',
    xmp: `${IPTC_OLDER}:Instructions`,
    iim: { tag: 'IPTC:SpecialInstructions', limit: 256 },
  }),
  described('jobId', 'Job id', 'text', DESCRIBED, 'sort group count edit name words', {
    most: 200,
    xmp: `${IPTC_OLDER}:TransmissionReference`,
    iim: { tag: 'IPTC:OriginalTransmissionReference', limit: 32 },
  }),
  described('source', 'Source', 'text', DESCRIBED, 'group count edit name', {
    most: 500,
    xmp: `${IPTC_OLDER}:Source`,
    iim: { tag: 'IPTC:Source', limit: 32 },
  }),
  described('supplier', 'Supplier', 'text', DESCRIBED, 'group count edit name', {
    most: 500,
    xmp: 'XMP-plus:ImageSupplierName',
  }),
  described('captionWriter', 'Caption writer', 'text', DESCRIBED, 'count edit', {
    most: 200,
    xmp: `${IPTC_OLDER}:CaptionWriter`,
    iim: { tag: 'IPTC:Writer-Editor', limit: 32 },
  }),
  described('usageTerms', 'Usage terms', 'long-text', DESCRIBED, 'edit', {
    most: 4000,
    has: 'with usage terms',
    lacks: 'without usage terms',
    xmp: 'XMP-xmpRights:UsageTerms',
  }),
  described('webStatement', 'Web statement of rights', 'text', DESCRIBED, 'edit', {
    most: 2000,
    xmp: 'XMP-xmpRights:WebStatement',
  }),
  described('rightsOwner', 'Rights owner', 'text', DESCRIBED, 'group count edit name', {
    most: 500,
    xmp: 'XMP-plus:CopyrightOwnerName',
  }),
  described('licensor', 'Licensor', 'text', DESCRIBED, 'group count edit name', {
    most: 500,
    xmp: 'XMP-plus:LicensorName',
  }),
  described('modelRelease', 'Model release', 'enum', DESCRIBED, 'group count edit', {
    xmp: 'XMP-plus:ModelReleaseStatus',
    values: [
      { key: 'MR-NON', label: 'none' },
      { key: 'MR-NAP', label: 'not applicable' },
      { key: 'MR-UMR', label: 'unlimited' },
      { key: 'MR-LMR', label: 'limited or incomplete' },
    ],
  }),
  described('propertyRelease', 'Property release', 'enum', DESCRIBED, 'group count edit', {
    xmp: 'XMP-plus:PropertyReleaseStatus',
    values: [
      { key: 'PR-NON', label: 'none' },
      { key: 'PR-NAP', label: 'not applicable' },
      { key: 'PR-UPR', label: 'unlimited' },
      { key: 'PR-LPR', label: 'limited or incomplete' },
    ],
  }),
  described('digitalSource', 'Digital source type', 'enum', DESCRIBED, 'group count edit', {
    xmp: 'XMP-iptcExt:DigitalSourceType',
    values: [
      cv('digitalsourcetype', 'digitalCapture', 'digital capture'),
      cv('digitalsourcetype', 'negativeFilm', 'scanned negative'),
      cv('digitalsourcetype', 'positiveFilm', 'scanned positive'),
      cv('digitalsourcetype', 'print', 'scanned print'),
      cv('digitalsourcetype', 'humanEdits', 'edited by people'),
      cv('digitalsourcetype', 'compositeCapture', 'composite of captures'),
      cv('digitalsourcetype', 'digitalCreation', 'made digitally'),
      cv('digitalsourcetype', 'trainedAlgorithmicMedia', 'made by a trained model'),
      cv('digitalsourcetype', 'compositeWithTrainedAlgorithmicMedia', 'composite with a model'),
      cv('digitalsourcetype', 'algorithmicMedia', 'made by an algorithm'),
    ],
  }),
  described('position', 'Position', 'position', MADE, 'count edit', {
    most: 120,
    says: 'near',
    exif: 'GPS:GPSLatitude',
    xmp: 'XMP-exif:GPSLatitude',
  }),
  inLanguages('titleIn', 'Title', 'title', 'XMP-dc:Title'),
  inLanguages('captionIn', 'Caption', 'caption', 'XMP-dc:Description'),
  inLanguages('copyrightIn', 'Copyright notice', 'copyrightNotice', 'XMP-dc:Rights'),
  inLanguages('usageTermsIn', 'Usage terms', 'usageTerms', 'XMP-xmpRights:UsageTerms'),
  inLanguages('altTextIn', 'Alt text', 'altText', 'XMP-iptcCore:AltTextAccessibility'),
  inLanguages('eventIn', 'Event', 'event', 'XMP-iptcExt:Event'),
  // What the file says of how it was made.
  read('camera', 'Camera', 'text', column('i.camera'), 'sort group count name words show', {
    says: 'taken with',
  }),
  read('make', 'Camera make', 'text', READ, 'group count name'),
  read('model', 'Camera model', 'text', READ, 'count name'),
  read('lens', 'Lens', 'text', READ, 'sort group count name show'),
  read('focalLength', 'Focal length', 'number', READ, 'sort count name show', { unit: 'mm' }),
  read('aperture', 'Aperture', 'number', READ, 'sort count name show', {
    has: 'with an aperture',
    lacks: 'without an aperture',
  }),
  read('exposure', 'Exposure time', 'number', READ, 'sort count show', {
    unit: 's',
    has: 'with an exposure time',
    lacks: 'without an exposure time',
  }),
  read('iso', 'ISO', 'number', READ, 'sort count name show', {
    has: 'with an ISO',
    lacks: 'without an ISO',
  }),
  read('width', 'Width', 'number', column('i.width'), 'sort count name', { unit: 'px' }),
  read('height', 'Height', 'number', column('i.height'), 'sort count name', { unit: 'px' }),
  read('megapixels', 'Megapixels', 'number', MADE, 'sort count', {
    unit: 'MP',
    has: 'with megapixels',
    lacks: 'without megapixels',
  }),
  read('proportion', 'Proportion', 'enum', MADE, 'group count', {
    values: [
      { key: 'upright', label: 'upright' },
      { key: 'square', label: 'square' },
      { key: 'across', label: 'across' },
      { key: 'panorama', label: 'panorama' },
    ],
  }),
  read('colourSpace', 'Colour space', 'text', READ, 'group count name'),
  read('sharpness', 'Sharpness', 'number', READ, 'sort'),
  read('brightness', 'Brightness', 'number', READ, 'sort', { unit: '%' }),
  read('lostInWhite', 'Lost in white', 'number', READ, 'sort', { unit: '%' }),
  read('lostInBlack', 'Lost in black', 'number', READ, 'sort', { unit: '%' }),
  read('resolution', 'Resolution', 'number', READ, 'sort count', { unit: 'ppi' }),
  read('duration', 'Length', 'number', column('i.duration'), 'sort count name show', { unit: 's' }),
  read('frameRate', 'Frame rate', 'number', READ, 'sort group count', { unit: 'fps' }),
  read('timecode', 'Start timecode', 'text', READ, 'sort'),
  read('videoCodec', 'Video codec', 'text', READ, 'group count name'),
  read('audioCodec', 'Audio codec', 'text', READ, 'group count', {
    has: 'with an audio codec',
    lacks: 'without an audio codec',
  }),
  read('videoProfile', 'Video profile', 'text', READ, 'group count'),
  read('bitDepth', 'Bits per channel', 'number', READ, 'sort group count'),
  read('frameTiming', 'Frame timing', 'enum', READ, 'group count', {
    values: [
      { key: 'steady', label: 'steady' },
      { key: 'variable', label: 'variable' },
    ],
  }),
  read('frames', 'Frames', 'number', READ, 'sort'),
  read('transparency', 'Transparency', 'text', READ, 'count', {
    has: 'with transparency',
    lacks: 'without transparency',
  }),
  read('dynamicRange', 'High dynamic range', 'text', READ, 'group count', {
    has: 'of high dynamic range',
    lacks: 'of standard range',
  }),
  read('soundLayout', 'Sound layout', 'text', READ, 'group count'),
  read('languages', 'Languages', 'names', READ, 'count', { many: true }),
  read('chapters', 'Chapters', 'number', READ, 'sort'),
  read('loudness', 'Loudness', 'number', READ, 'sort', { unit: 'LUFS' }),
  read('truePeak', 'True peak', 'number', READ, 'sort', { unit: 'dBTP' }),
  read('sampleRate', 'Sample rate', 'number', READ, 'sort group count', { unit: 'Hz' }),
  read('channels', 'Sound channels', 'number', READ, 'count', {
    has: 'with sound channels',
    lacks: 'without sound channels',
  }),
  read('pages', 'Pages', 'number', READ, 'sort count', {
    has: 'with pages',
    lacks: 'without pages',
  }),
  // What the archive knows.
  known('number', 'Catalogue number', 'text', column('i.number'), 'sort name words show', {
    says: 'numbered',
  }),
  known('name', 'Name', 'text', column('f.name'), 'sort words show', { says: 'named' }),
  known('originalName', 'Original name', 'text', column('i.original_name'), 'name words', {
    says: 'first named',
    has: 'with an original name',
    lacks: 'without an original name',
  }),
  known('folder', 'Folder', 'folder', MADE, 'group count show', { of: 'folder', says: 'in' }),
  known('kind', 'Kind', 'enum', column('i.kind'), 'sort group count show', {
    says: 'of kind',
    values: KINDS.map((key) => ({ key, label: KIND_WORDS[key] })),
  }),
  known('format', 'Format', 'enum', column('i.format'), 'sort group count name show', {
    values: FORMAT_KEYS.map((key) => ({ key, label: formatName(key) })),
  }),
  known('bytes', 'Bytes', 'number', column('f.size'), 'sort count show', {
    unit: 'bytes',
    has: 'with a size',
    lacks: 'without a size',
  }),
  known('brought', 'Brought in', 'date', column('i.created_at'), 'sort group count name show', {
    has: 'brought in at a known time',
    lacks: 'brought in at an unknown time',
  }),
  known('broughtBy', 'Brought in by', 'ref', MADE, 'group count', {
    of: 'person',
    says: 'brought in by',
    has: 'brought in by someone',
    lacks: 'brought in by nobody known',
  }),
  known('accession', 'Accession', 'ref', column('i.accession_id'), 'sort group count name', {
    of: 'accession',
    says: 'from accession',
    has: 'from an accession',
    lacks: 'from no accession',
  }),
  known('collection', 'Collection', 'ref', MADE, 'count', {
    of: 'collection',
    many: true,
    says: 'collected in',
    has: 'in any collection',
    lacks: 'in no collection',
  }),
  known('file', 'File', 'enum', MADE, 'group count', {
    says: 'with the file',
    values: [
      { key: 'present', label: 'present' },
      { key: 'missing', label: 'missing' },
      { key: 'changed', label: 'changed elsewhere' },
      { key: 'away', label: 'in a place that is away' },
    ],
  }),
  known('writing', 'Record in the file', 'enum', MADE, 'count', {
    says: 'with a record',
    values: [
      { key: 'written', label: 'written into the file' },
      { key: 'waiting', label: 'waiting to be written' },
      { key: 'differs', label: 'that differs from the file' },
      { key: 'failed', label: 'refused by the file' },
    ],
  }),
  known('access', 'Access', 'enum', column('i.access'), 'group count show', {
    says: 'whose access is',
    values: ACCESS.map((key) => ({ key, label: ACCESS_LABELS[key] })),
  }),
  known('unready', 'Not ready', 'names', MADE, 'count', {
    many: true,
    says: 'not ready because of',
    has: 'not ready by the house rules',
    lacks: 'ready by the house rules',
  }),
  known('picture', 'Picture', 'yes-no', MADE, 'count', {
    has: 'with a picture',
    lacks: 'without a picture',
  }),
  known('burst', 'Burst', 'text', MADE, '', {
    says: 'of the burst',
    has: 'taken in bursts',
    lacks: 'taken alone',
  }),
  known('lead', 'One of a burst', 'yes-no', MADE, 'count', {
    has: 'one of each burst',
    lacks: 'behind another of its burst',
  }),
  known('twin', 'Twin', 'yes-no', MADE, 'count', { has: 'held twice', lacks: 'held once' }),
  known('copies', 'Copies', 'number', MADE, 'sort count', {
    has: 'with a copy',
    lacks: 'without a copy',
  }),
  known('colours', 'Colours', 'colour', column('i.colours'), 'count', {
    many: true,
    says: 'in colours like',
    has: 'with known colours',
    lacks: 'without known colours',
  }),
  known('words', 'Words', 'words', MADE, '', {
    says: 'saying',
    has: 'saying anything',
    lacks: 'saying nothing',
  }),
] as const;
