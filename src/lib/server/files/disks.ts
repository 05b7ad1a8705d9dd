import { stat } from 'node:fs/promises';
import { ArchiveError } from '#core/errors';
import { factsOf, makeFolderInside } from './disk';
import { bytesOfPath, joinPath, realInside } from './paths';

/** What the root of a place is known by while work goes on there: another disk under the same path is another one. */
export async function markOf(root: string): Promise<string | null> {
  const facts = await stat(bytesOfPath(root), { bigint: true }).catch(() => null);
  return facts && `${facts.dev} ${facts.ino}`;
}

/** The root of a place as it was when some work began. */
export interface Root {
  root: string;
  place: string;
  /** null: it was not there. */
  mark: string | null;
}

/** After so long a folder is looked at again: it may be another's by then, ms. */
const LOOK_AGAIN_MS = 500;

/**
 * Which disks folders lie on while files go from one to another. A disk that is taken away leaves an empty folder behind
 * where it was mounted: nothing is laid into that.
 */
export class Disks {
  readonly #roots: ReadonlyMap<string, Root>;
  #known = new Map<string, Promise<bigint>>();
  #looked = -Infinity;

  constructor(roots: Iterable<Root>) {
    this.#roots = new Map([...roots].map((one) => [one.root, one]));
  }

  /**
   * The disk a folder lies on, once it is known to lie in its place. @param isMade it is made where it is missing
   * @throws ArchiveError outside-place, not-found
   */
  of(spot: { root: string; folder: string }, isMade: boolean): Promise<bigint> {
    if (performance.now() - this.#looked > LOOK_AGAIN_MS) {
      this.#known = new Map();
      this.#looked = performance.now();
    }
    const path = joinPath(spot.root, spot.folder);
    const key = `${isMade ? 'to' : 'from'} ${path}`;
    let known = this.#known.get(key);
    if (!known) this.#known.set(key, (known = this.#look(path, spot, isMade)));
    return known;
  }

  async #look(
    path: string,
    { root, folder }: { root: string; folder: string },
    isMade: boolean,
  ): Promise<bigint> {
    await this.#refuseTakenAway(root);
    if (isMade) await makeFolderInside(root, folder);
    await realInside(path, root);
    const facts = await factsOf(path);
    if (!facts) throw new ArchiveError('not-found', `“${path}” is not there.`);
    await this.#refuseTakenAway(root);
    return facts.dev;
  }

  async #refuseTakenAway(root: string): Promise<void> {
    const known = this.#roots.get(root);
    if (known && (known.mark === null || known.mark !== (await markOf(root))))
      throw new ArchiveError('not-found', `“${known.place}” was taken away.`);
  }
}
