import pg from 'pg';
import type { House } from '../house/house';
import { CHANNEL } from './notify';

type Hear = (message: string) => void;

const RECONNECT_MS = 1000;

/** One listening connection for the whole process, shared by every window's stream. */
export function startListening(house: House): { hear: (hear: Hear) => () => void } {
  const ears = new Set<Hear>();
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
    client.on('notification', ({ payload }) => ears.forEach((ear) => ear(payload ?? '')));
    try {
      await client.connect();
      await client.query(`listen ${CHANNEL}`);
    } catch (error) {
      house.log.warn({ error: String(error) }, 'listening to the database failed; trying again');
      again();
    }
  };
  void connect();
  return {
    hear(ear) {
      ears.add(ear);
      return () => ears.delete(ear);
    },
  };
}
