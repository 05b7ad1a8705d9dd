import { join } from 'node:path';
import { z } from 'zod';
import { ArchiveError, sentenceOf } from '#core/errors';
import { counted } from '#core/text/quantities';
import type { PagePicture } from '#core/uploads/pagePictures';
import { diskError, isDiskFull, makeFolder, removeFile } from '../../files/disk';
import { apart, runApart } from '../../apart/apart';
import type { House } from '../../house/house';
import { newId } from '../../house/ids';
import { enqueue } from '../../jobs/queue';
import type { JobRow, Progress } from '../../jobs/attempt';
import { notify } from '../../live/notify';
import { newParcel, parcelById, putIntoParcel } from '../../uploads/parcels';
import { fetchFile, fetchPage, webAddress } from './fetch';
import type { picturesIn } from './page';

/** Shown of one page; the dialog says when there are so many. */
const MOST_PICTURES = 500;
const PAGE_SECONDS = 15;
export const PAGE = apart<typeof picturesIn>('intake/sources/page', 'picturesIn');

/** What a page shows; an address that is a picture itself lists that. @throws ArchiveError value-refused */
export async function listPage(
  house: House,
  address: string,
): Promise<{ address: string; pictures: PagePicture[] }> {
  const { url, type, text } = await fetchPage(house, webAddress(address));
  const pictures = text
    ? await runApart(PAGE, { html: text, base: url.href, most: MOST_PICTURES }, PAGE_SECONDS)
    : /^(image|video|audio)\/|pdf$/.test(type)
      ? [{ address: url.href, alt: '' }]
      : [];
  if (pictures.length === 0)
    throw new ArchiveError('value-refused', `There are no pictures at “${url.href}”.`);
  return { address: url.href, pictures };
}

/** Fetch chosen addresses into a parcel, by a job. */
export async function startFetching(
  house: House,
  actorId: string | null,
  title: string,
  addresses: string[],
  into: string | null = null,
): Promise<{ parcel: string; job: string }> {
  for (const address of addresses) webAddress(address);
  const parcel = into
    ? await parcelById(house, into)
    : await newParcel(house, { kind: 'web', title, by: actorId });
  const before = await fetchState(house, parcel.id);
  const value = JSON.stringify({ addresses, failed: [], fetched: before?.fetched ?? {} });
  await house.db
    .insertInto('setting')
    .values({ key: `fetch:${parcel.id}`, value })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ value }))
    .execute();
  const [job] = await enqueue(house.db, [
    {
      task: 'fetch',
      title: `Fetching ${counted(addresses.length, 'file')} from ${new URL(addresses[0]!).host}`,
      subject: parcel.id,
      createdBy: actorId,
      total: addresses.length,
      unit: 'files',
    },
  ]);
  return { parcel: parcel.id, job: job! };
}

const stateSchema = z.object({
  addresses: z.array(z.string()),
  failed: z.array(z.object({ address: z.string(), reason: z.string() })),
  /** Path in the parcel by address. */
  fetched: z.record(z.string(), z.string()).default({}),
});
export type FetchState = z.infer<typeof stateSchema>;

/** What is still to come and what failed; null where nothing was fetched into this parcel. */
export async function fetchState(house: House, parcelId: string): Promise<FetchState | null> {
  const row = await house.db
    .selectFrom('setting')
    .select('value')
    .where('key', '=', `fetch:${parcelId}`)
    .executeTakeFirst();
  return row ? stateSchema.parse(row.value) : null;
}

/** Job: fetch what is left, one after the other; what cannot be fetched says why. */
export async function fetchAll(house: House, job: JobRow, progress: Progress): Promise<void> {
  const id = job.subject;
  const state = await fetchState(house, id);
  if (!state) return;
  const folder = join(house.folders.uploads, '.fetch');
  await makeFolder(folder);
  const left = [...state.addresses];
  while (left.length > 0) {
    await progress.checkWish();
    const address = left[0]!;
    const temporary = join(folder, newId());
    try {
      const { name } = await fetchFile(house, webAddress(address), temporary);
      state.fetched[address] = await putIntoParcel(house.folders.uploads, id, name, temporary);
    } catch (error) {
      // A full disk stops all of them; anything else is the fault of this address.
      if (isDiskFull(error)) throw diskError(error, temporary);
      state.failed.push({ address, reason: sentenceOf(error) });
    } finally {
      await removeFile(temporary);
    }
    left.shift();
    await house.db
      .updateTable('setting')
      .set({
        value: JSON.stringify({ addresses: left, failed: state.failed, fetched: state.fetched }),
      })
      .where('key', '=', `fetch:${id}`)
      .execute();
    await progress.report(job.total - left.length, job.total, 'files');
  }
  await notify(house.db, { about: 'scan', id });
}
