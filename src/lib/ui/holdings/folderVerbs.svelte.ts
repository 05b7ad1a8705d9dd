import type { FolderNode } from '#core/catalogue/tile';
import { counted } from '#core/text/quantities';
import { api } from '../common/api';
import { sayDone, sayWrong } from '../common/notices.svelte';

/** What is done to folders: made, renamed, moved, removed; each a step of the ledger with its undo. */
export class FolderVerbs {
  /** Ids of folders that are taken along to be put elsewhere. */
  taken = $state.raw<string[]>([]);
  readonly #load: () => Promise<void>;

  constructor(load: () => Promise<void>) {
    this.#load = load;
  }

  async #did(words: string, operations: string[]): Promise<void> {
    await this.#load();
    sayDone(words, {
      label: 'Undo',
      run: async () => {
        for (const operation of operations.toReversed())
          await api.post(`/api/ledger/${operation}/undo`, {});
        await this.#load();
      },
    });
  }

  /** @returns the id of the new folder; null where it was refused in words */
  async make(parentId: string, name: string): Promise<string | null> {
    try {
      const made = await api.post('/api/places/folders', {
        parentId,
        name,
      });
      await this.#did(`The folder “${name}” is made.`, [made.operation]);
      return made.id;
    } catch (error) {
      sayWrong(error);
      return null;
    }
  }

  /** @returns whether it was done */
  async rename(folder: FolderNode, name: string): Promise<boolean> {
    try {
      const { operation } = await api.patch(`/api/places/folders/${folder.id}`, { name });
      await this.#did(`“${folder.name}” is “${name}” now.`, [operation]);
      return true;
    } catch (error) {
      sayWrong(error);
      return false;
    }
  }

  /** Take a folder along, or let go of it. */
  take(id: string): void {
    this.taken = this.taken.includes(id)
      ? this.taken.filter((one) => one !== id)
      : [...this.taken, id];
  }

  /** Put folders into another one; what is refused stays and is said. */
  async put(ids: readonly string[], into: FolderNode): Promise<void> {
    const operations: string[] = [];
    for (const id of ids) {
      try {
        const { operation } = await api.patch(`/api/places/folders/${id}`, {
          parentId: into.id,
        });
        operations.push(operation);
        this.taken = this.taken.filter((one) => one !== id);
      } catch (error) {
        sayWrong(error);
      }
    }
    if (operations.length > 0)
      await this.#did(
        `${counted(operations.length, 'folder')} put into “${into.name}”.`,
        operations,
      );
  }

  async remove(folder: FolderNode): Promise<boolean> {
    try {
      const { operation } = await api.delete(`/api/places/folders/${folder.id}`);
      await this.#did(`The empty folder “${folder.name}” is removed.`, [operation]);
      return true;
    } catch (error) {
      sayWrong(error);
      return false;
    }
  }
}
