import pg from 'pg';
import type { House } from '../house/house';
import { CHANNEL } from './notify';

export interface Ear {
  hear: (message: string) => void;
  /** The connection was lost and is there again: what was said meanwhile was missed. */
  again: () => void;
}

const RECONNECT_MS = 1000;

/** One listening connection for the whole process. */
export function startListening(house: House, ear: Ear): void {
  let isFirst = true;
  const connect = async (): Promise<void> => {
    const client = new pg.Client({ connectionString: house.databaseUrl });
    let lost = false;
    const again = (): void => {
      if (lost) return;
      lost = true;
      void client.end().catch(() => undefined);
      setTimeout(() => void connect(), RECONNECT_MS).unref();
    };
    client.on('error', again);
    client.on('end', again);
    client.on('notification', ({ payload }) => ear.hear(payload ?? ''));
    try {
      await client.connect();
      await client.query(`listen ${CHANNEL}`);
      if (!isFirst) ear.again();
      isFirst = false;
    } catch (error) {
      house.log.warn({ error: String(error) }, 'listening to the database failed; trying again');
      again();
    }
  };
  void connect();
}
