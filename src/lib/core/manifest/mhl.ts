import { XMLBuilder, XMLParser } from 'fast-xml-parser';
import { z } from 'zod';
import { ArchiveError } from '../errors';
import { MHL_FOLDER } from './folder';

/**
 * ASC Media Hash List, version 2.0: manifests of one generation each, and the chain that lists them.
 * Namespaces and element names are those of the standard's schemas.
 */
const MANIFEST_SPACE = 'urn:ASC:MHL:v2.0';
/** Ours, for what the standard has no element for: it lets `metadata` hold anything. */
const OWN_SPACE = 'urn:mindful-archive:mhl:1';
const CHAIN_SPACE = 'urn:ASC:MHL:DIRECTORY:v2.0';
export const CHAIN_FILE = 'ascmhl_chain.xml';

export interface MhlHash {
  /** Path below the folder that holds the manifests' folder, parts joined by `/`. */
  path: string;
  /** bytes */
  size: number;
  modified: Date;
  /** xxh3-128, 32 hex digits */
  xxh128: string;
  action: 'original' | 'verified' | 'failed';
  hashed: Date;
  /** Hash of the bytes it was made from, where its record was written into the copy. */
  source?: string;
}

export interface MhlManifest {
  created: Date;
  hostname: string;
  tool: string;
  toolVersion: string;
  author: string;
  process: 'in-place' | 'transfer';
  comment: string;
  hashes: MhlHash[];
}

/** xsd:dateTime in UTC, to the second. */
const moment = (date: Date): string => date.toISOString().replace(/\.\d{3}Z$/, '+00:00');

/** Characters that XML 1.0 has no way to write (2.2): control characters but tab and line ends, lone surrogates. */
const UNWRITABLE =
  // eslint-disable-next-line no-control-regex
  /[\0-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

/** Whether a path can stand in a manifest. */
export const canList = (path: string): boolean => !UNWRITABLE.test(path) && !/[\r\n\t]/.test(path);

const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  format: true,
  indentBy: '  ',
  suppressEmptyNode: false,
});
const HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n';

/** `0001_Shelf_2026-09-12_184207Z.mhl` */
export function manifestName(sequence: number, folder: string, created: Date): string {
  const [day = '', time = ''] = created.toISOString().split('T');
  const safe = folder.replace(/[^\p{L}\p{N}._-]+/gu, '_') || 'root';
  return `${String(sequence).padStart(4, '0')}_${safe}_${day}_${time.slice(0, 8).replaceAll(':', '')}Z.mhl`;
}

/** A manifest as XML. Paths that XML cannot hold must have been left out (see canList). */
export function formatManifest(manifest: MhlManifest): string {
  return (
    HEAD +
    builder.build({
      hashlist: {
        '@version': '2.0',
        '@xmlns': MANIFEST_SPACE,
        creatorinfo: {
          creationdate: moment(manifest.created),
          hostname: manifest.hostname,
          tool: { '@version': manifest.toolVersion, '#text': manifest.tool },
          ...(manifest.author ? { author: { name: manifest.author } } : {}),
          ...(manifest.comment ? { comment: manifest.comment } : {}),
        },
        processinfo: {
          process: manifest.process,
          ignore: { pattern: ['.DS_Store', MHL_FOLDER, `${MHL_FOLDER}/`] },
        },
        hashes: {
          hash: manifest.hashes.map((hash) => ({
            path: {
              '@size': String(hash.size),
              '@lastmodificationdate': moment(hash.modified),
              '#text': hash.path,
            },
            xxh128: {
              '@action': hash.action,
              '@hashdate': moment(hash.hashed),
              '#text': hash.xxh128,
            },
            ...(hash.source
              ? { metadata: { source: { '@xmlns': OWN_SPACE, xxh128: hash.source } } }
              : {}),
          })),
        },
      },
    })
  );
}

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  isArray: (_name, path) => path === 'hashlist.hashes.hash' || path === 'ascmhldirectory.hashlist',
});

const date = z.string().transform((text, context) => {
  const parsed = new Date(text);
  if (!Number.isNaN(parsed.getTime())) return parsed;
  context.addIssue({ code: 'custom', message: `“${text}” is no date` });
  return z.NEVER;
});

const HASH = z.string().regex(/^[0-9a-f]{32}$/);

const manifestSchema = z.object({
  hashlist: z.object({
    '@version': z.literal('2.0'),
    '@xmlns': z.literal(MANIFEST_SPACE),
    creatorinfo: z.object({
      creationdate: date,
      hostname: z.string(),
      tool: z.object({ '#text': z.string(), '@version': z.string() }),
      author: z.object({ name: z.string() }).optional(),
      comment: z.string().optional(),
    }),
    processinfo: z.object({ process: z.enum(['in-place', 'transfer']) }),
    hashes: z.object({
      hash: z.array(
        z.object({
          path: z.object({
            '#text': z.string(),
            '@size': z.coerce.number().int().min(0),
            '@lastmodificationdate': date,
          }),
          xxh128: z.object({
            '#text': HASH,
            '@action': z.enum(['original', 'verified', 'failed']),
            '@hashdate': date,
          }),
          metadata: z.object({ source: z.object({ xxh128: HASH }).optional() }).optional(),
        }),
      ),
    }),
  }),
});

/** Read a manifest back. @throws ArchiveError file-unreadable saying where it is wrong */
export function parseManifest(xml: string): MhlManifest {
  const { hashlist } = read(xml, manifestSchema);
  const { creatorinfo } = hashlist;
  return {
    created: creatorinfo.creationdate,
    hostname: creatorinfo.hostname,
    tool: creatorinfo.tool['#text'],
    toolVersion: creatorinfo.tool['@version'],
    author: creatorinfo.author?.name ?? '',
    comment: creatorinfo.comment ?? '',
    process: hashlist.processinfo.process,
    hashes: hashlist.hashes.hash.map(({ path, xxh128, metadata }) => ({
      path: path['#text'],
      size: path['@size'],
      modified: path['@lastmodificationdate'],
      xxh128: xxh128['#text'],
      action: xxh128['@action'],
      hashed: xxh128['@hashdate'],
      ...(metadata?.source ? { source: metadata.source.xxh128 } : {}),
    })),
  };
}

export interface MhlGeneration {
  sequence: number;
  /** File name of the manifest. */
  path: string;
  /** C4 ID of the manifest (SMPTE ST 2114). */
  c4: string;
}

const chainSchema = z.object({
  ascmhldirectory: z.object({
    '@xmlns': z.literal(CHAIN_SPACE),
    hashlist: z
      .array(
        z.object({
          '@sequencenr': z.coerce.number().int().min(1),
          path: z.string(),
          c4: z.string().regex(/^c4[1-9A-HJ-NP-Za-km-z]{88}$/),
        }),
      )
      .default([]),
  }),
});

/** The chain file that lists the generations of a folder. */
export const formatChain = (generations: MhlGeneration[]): string =>
  HEAD +
  builder.build({
    ascmhldirectory: {
      '@xmlns': CHAIN_SPACE,
      hashlist: generations.map(({ sequence, path, c4 }) => ({
        '@sequencenr': String(sequence),
        path,
        c4,
      })),
    },
  });

/** @throws ArchiveError file-unreadable */
export const parseChain = (xml: string): MhlGeneration[] =>
  read(xml, chainSchema).ascmhldirectory.hashlist.map((one) => ({
    sequence: one['@sequencenr'],
    path: one.path,
    c4: one.c4,
  }));

function read<S extends z.ZodType>(xml: string, schema: S): z.output<S> {
  let tree: unknown;
  try {
    tree = parser.parse(xml, true);
  } catch (error) {
    throw new ArchiveError('file-unreadable', 'The manifest is no XML.', {}, { cause: error });
  }
  const parsed = schema.safeParse(tree);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new ArchiveError(
    'file-unreadable',
    `The manifest is not as ASC MHL 2.0 says: ${issue!.path.join('/')}: ${issue!.message}`,
  );
}

const BASE58 = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';
const C4_DIGITS = 88;

/** C4 ID of a SHA-512 digest: `c4` and 88 digits of base 58 (SMPTE ST 2114). */
export function c4Of(sha512: Uint8Array): string {
  let value = sha512.reduce((sum, byte) => (sum << 8n) | BigInt(byte), 0n);
  let digits = '';
  while (digits.length < C4_DIGITS) {
    digits = BASE58[Number(value % 58n)]! + digits;
    value /= 58n;
  }
  return `c4${digits}`;
}
