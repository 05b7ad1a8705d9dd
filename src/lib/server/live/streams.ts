import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { House } from '../house/house';
import { startListening } from './listen';
import type { LiveMessage } from './notify';

/** Windows are told what changed by Server-Sent Events (HTML Living Standard, 9.2), one stream each. */
const BEAT_MS = 20_000;
/** More windows than anybody has open. */
const MOST_EACH = 20;
/** Messages a window may lag behind before it is let go; it comes back and asks anew. */
const MOST_QUEUED = 200;

/** Whose stream it is; it ends with the session. */
export interface Listener {
  personId: string;
  sessionId: string;
}

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
  startListening(house, {
    hear(text) {
      const message = JSON.parse(text) as LiveMessage;
      if (message.about !== 'session') all.forEach((one) => one.send(`data: ${text}\n\n`));
      else
        endWhere(({ personId, sessionId }) =>
          message.session === null ? personId === message.person : sessionId === message.session,
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
      .select('s.id')
      .where('s.id', '=', sql<string>`any(${ids}::uuid[])`)
      .where('s.expiresAt', '>', sql<Date>`now()`)
      .where('p.shutOutAt', 'is', null)
      .execute();
    const living = new Set(rows.map(({ id }) => id));
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
        },
        cancel: () => void all.delete(one),
      });
    },
  };
}
