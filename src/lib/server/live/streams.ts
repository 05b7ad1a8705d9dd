import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { House } from '../house/house';
import { startListening } from './listen';
import type { Role } from '#core/people/roles';
import { sightOf, type Viewer } from '#core/sight/viewer';
import { withinAccess } from '../sight/seen';
import type { Message } from './notify';

/** Windows are told what changed by Server-Sent Events (HTML Living Standard, 9.2), one stream each. */
const BEAT_MS = 20_000;
/** ms from a page being made to its stream being open, and more. */
const LATELY_MS = 5000;
const MOST_LATELY = 100;
/** More windows than anybody has open. */
const MOST_EACH = 20;
/** Messages a window may lag behind before it is let go; it comes back and asks anew. */
const MOST_QUEUED = 200;

/** Whose stream it is; it ends with the session. */
export interface Listener {
  personId: string;
  sessionId: string;
  role: Role;
}

type AboutItems = Extract<Message, { about: 'items' | 'counted' }>;

interface Open extends Listener {
  send: (text: string) => void;
  end: () => void;
}

export interface Streams {
  /** @throws ArchiveError too-many-tries where one person has too many */
  open: (listener: Listener) => ReadableStream<Uint8Array>;
}

/** Start the hub of all windows of this process. */
export function startStreams(house: House): Streams {
  const all = new Set<Open>();
  const encoder = new TextEncoder();

  const endWhere = (isMeant: (one: Open) => boolean): void => {
    for (const one of [...all]) if (isMeant(one)) one.end();
  };
  const sendTo = (to: Iterable<Open>, message: Message): void => {
    const text = `data: ${JSON.stringify(message)}\n\n`;
    for (const one of to) one.send(text);
  };

  /** Those of some items that somebody may know of; those let go as well, for they went from what is shown. */
  async function known(viewer: Viewer, ids: string[]): Promise<string[]> {
    const { rows } = await sql<{ id: string }>`select i.id from item i
      where i.id = any(${ids}::uuid[]) and ${withinAccess(sightOf(viewer, 'list'), 'i')}`.execute(
      house.db,
    );
    return rows.map(({ id }) => id);
  }

  /** Each window is told of the items its person may know of. */
  async function tellItems(message: AboutItems, to: Iterable<Open> = all): Promise<void> {
    const wholly = [...to].filter(({ personId: id, role }) => !sightOf({ id, role }, 'list'));
    sendTo(wholly, message);
    const partly = new Map<string, Open[]>();
    for (const one of to) {
      if (wholly.includes(one)) continue;
      const key = JSON.stringify(sightOf({ id: one.personId, role: one.role }, 'list'));
      partly.set(key, [...(partly.get(key) ?? []), one]);
    }
    for (const some of partly.values()) {
      const [{ personId: id, role }] = some as [Open];
      const ids = message.ids.length === 0 ? [] : await known({ id, role }, message.ids);
      // Without ids it says: many. Of counts that is all somebody hears where not all is his to know.
      if (message.about === 'counted' && ids.length < message.ids.length)
        sendTo(some, { ...message, ids: [] });
      else if (ids.length > 0 || message.ids.length === 0) sendTo(some, { ...message, ids });
    }
  }

  /** What was told of items in the last moments: a window that opens its stream loaded its page before. */
  let lately: { message: AboutItems; at: number }[] = [];
  function remember(message: AboutItems): void {
    const now = Date.now();
    lately = [...lately, { message, at: now }]
      .filter(({ at }) => now - at < LATELY_MS)
      .slice(-MOST_LATELY);
  }
  async function tellLately(one: Open): Promise<void> {
    const now = Date.now();
    for (const { message, at } of [...lately])
      if (now - at < LATELY_MS) await tellItems(message, [one]);
  }

  async function tell(message: Message): Promise<void> {
    if (message.about === 'session')
      endWhere(({ personId, sessionId }) =>
        message.session === null ? personId === message.person : sessionId === message.session,
      );
    else if ('ids' in message) {
      remember(message);
      await tellItems(message);
      // Nobody else says so where no index counts.
      if (message.about === 'items' && !house.settings.index)
        await tellItems({ about: 'counted', ids: message.ids });
    } else sendTo(all, message);
  }

  let last = Promise.resolve();
  startListening(house, {
    hear(text) {
      const message = JSON.parse(text) as Message;
      // One after the other: what is looked up for one is not overtaken by the next.
      last = last
        .then(() => tell(message))
        .catch((error: unknown) =>
          house.log.warn({ error: String(error) }, 'windows could not be told'),
        );
    },
    // What happened while the database was away nobody knows: windows ask anew.
    again: () => all.forEach((one) => one.send('data: {"about":"again"}\n\n')),
  });

  /** Sessions end by time too, and a message may have been missed. */
  const beat = async (): Promise<void> => {
    all.forEach((one) => one.send(': here\n\n'));
    const ids = [...new Set([...all].map(({ sessionId }) => sessionId))];
    if (ids.length === 0) return;
    const rows = await house.db
      .selectFrom('session as s')
      .innerJoin('person as p', 'p.id', 's.personId')
      .select(['s.id', 'p.role'])
      .where('s.id', '=', sql<string>`any(${ids}::uuid[])`)
      .where('s.expiresAt', '>', sql<Date>`now()`)
      .where('p.shutOutAt', 'is', null)
      .execute();
    const living = new Map(rows.map(({ id, role }) => [id, role]));
    for (const one of all) one.role = living.get(one.sessionId) ?? one.role;
    endWhere(({ sessionId }) => !living.has(sessionId));
  };
  setInterval(() => void beat().catch(() => undefined), BEAT_MS).unref();

  return {
    open(listener) {
      const own = [...all].filter(({ personId }) => personId === listener.personId);
      if (own.length >= MOST_EACH)
        throw new ArchiveError('too-many-tries', 'Too many windows are open; close some.');
      let one: Open;
      return new ReadableStream<Uint8Array>({
        start(controller) {
          one = {
            ...listener,
            send(text) {
              if ((controller.desiredSize ?? 0) < -MOST_QUEUED) one.end();
              else controller.enqueue(encoder.encode(text));
            },
            end() {
              all.delete(one);
              controller.close();
            },
          };
          all.add(one);
          one.send('retry: 2000\n\n');
          last = last.then(() => tellLately(one)).catch(() => undefined);
        },
        cancel: () => void all.delete(one),
      });
    },
  };
}
