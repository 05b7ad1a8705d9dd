import { createHash } from 'node:crypto';
import { sql } from 'kysely';
import { sentenceOf } from '#core/errors';
import { formatAccession } from '#core/catalogue/number';
import { c4Of, CHAIN_FILE, parseChain, parseManifest } from '#core/manifest/mhl';
import { factsOf } from '../../files/disk';
import { hashEssence, hashFile } from '../../files/hash';
import { withOpened } from '../../files/open';
import { joinPath, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { isLetGo } from '../../sight/seen';

export interface VerifyLine {
  accession: string;
  /** Path as the manifest lists it. */
  path: string;
  /** Where it lies now. */
  now: string;
  why: string;
}

export interface Verification {
  manifests: number;
  files: number;
  /** As they were brought in, to the bit. */
  good: number;
  /** Described since, by us and on record: the picture is the same. */
  described: number;
  /** In places that are away: nothing can be said. */
  away: number;
  /** Removed for good by somebody, after they were discarded. */
  letGo: number;
  damaged: VerifyLine[];
  missing: VerifyLine[];
  /** Manifests that are gone or were changed. */
  broken: VerifyLine[];
}

interface Listed {
  itemId: string;
  folder: string | null;
  name: string | null;
}

/** Where the original of an item lies and what it should be now. */
async function originalsOf(house: House, ids: string[]) {
  const rows = ids.length
    ? await house.db
        .selectFrom('file as f')
        .innerJoin('folder as d', 'd.id', 'f.folderId')
        .innerJoin('place as p', 'p.id', 'f.placeId')
        .innerJoin('item as i', 'i.id', 'f.itemId')
        .select(['f.id', 'f.itemId', 'f.name', 'd.path as folder', 'p.root', 'p.here'])
        .select(['f.contentHash', 'f.essenceHash', 'i.mediaType'])
        .select(isLetGo('i').as('isLetGo'))
        .where('f.role', '=', 'original')
        .where('f.itemId', '=', sql<string>`any(${ids}::uuid[])`)
        .execute()
    : [];
  return new Map(rows.map((row) => [row.itemId, row]));
}

/** Whether a manifest is what the chain beside it says. */
async function readManifest(path: string): Promise<{ text: string; problem: string | null }> {
  const text = await withOpened(path, (handle) => handle.readFile('utf8'));
  const { folder, name } = splitPath(path);
  const chain = parseChain(
    await withOpened(joinPath(folder, CHAIN_FILE), (handle) => handle.readFile('utf8')),
  );
  const c4 = c4Of(createHash('sha512').update(text).digest());
  const listed = chain.find((generation) => generation.path === name);
  if (!listed) return { text, problem: 'the chain does not list it' };
  return { text, problem: listed.c4 === c4 ? null : 'it was changed since it was written' };
}

/**
 * Read every file that the manifests of accessions list, and compare.
 * @param only number of one accession (`2026.014`); null for all
 */
export async function verify(
  house: House,
  only: string | null,
  report: (done: number, total: number) => void = () => undefined,
): Promise<Verification> {
  const found: Verification = {
    manifests: 0,
    files: 0,
    good: 0,
    described: 0,
    away: 0,
    letGo: 0,
    damaged: [],
    missing: [],
    broken: [],
  };
  const all = await house.db
    .selectFrom('accession')
    .select(['id', 'year', 'number', 'manifests'])
    .orderBy('year')
    .orderBy('number')
    .execute();
  const wanted = all.filter(
    ({ year, number, manifests }) =>
      manifests.length > 0 && (!only || formatAccession(year, number) === only),
  );
  for (const { id, year, number, manifests } of wanted) {
    const accession = formatAccession(year, number);
    const entries = await house.db
      .selectFrom('accessionEntry')
      .select(['itemId', 'folder', 'name'])
      .where('accessionId', '=', id)
      .where('itemId', 'is not', null)
      .execute();
    const byPath = new Map(
      (entries as Listed[]).map((entry) => [joinPath(entry.folder!, entry.name!), entry.itemId]),
    );
    const originals = await originalsOf(house, [...byPath.values()]);
    for (const path of manifests) {
      found.manifests += 1;
      const broken = (why: string): void =>
        void found.broken.push({ accession, path, now: path, why });
      let hashes: ReturnType<typeof parseManifest>['hashes'];
      try {
        const { text, problem } = await readManifest(path);
        if (problem) broken(problem);
        hashes = parseManifest(text).hashes;
      } catch (error) {
        broken(sentenceOf(error));
        continue;
      }
      for (const [index, listed] of hashes.entries()) {
        report(index + 1, hashes.length);
        found.files += 1;
        const file = originals.get(byPath.get(listed.path) ?? '');
        if (!file) {
          const why = 'the archive does not know it';
          found.missing.push({ accession, path: listed.path, now: '', why });
          continue;
        }
        const now = joinPath(file.root, file.folder, file.name);
        const line = (why: string): VerifyLine => ({ accession, path: listed.path, now, why });
        if (!file.here) found.away += 1;
        else if (!(await factsOf(now))) {
          if (file.isLetGo) found.letGo += 1;
          else found.missing.push(line('it is not there'));
        } else {
          const hash = await hashFile(now).catch(() => '');
          const essence =
            hash === listed.xxh128 ? null : await hashEssence(now, file.mediaType).catch(() => '');
          if (hash === listed.xxh128) found.good += 1;
          else if (hash === file.contentHash && essence === file.essenceHash) found.described += 1;
          else {
            found.damaged.push(
              line(`it reads ${hash || 'nothing'}; ${file.contentHash} is on record`),
            );
            continue;
          }
          await house.db
            .updateTable('file')
            .set({ verifiedAt: house.now() })
            .where('id', '=', file.id)
            .execute();
        }
      }
    }
  }
  return found;
}
