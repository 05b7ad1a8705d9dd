import { firstTables } from './migrations/001-first-tables';
import { intake } from './migrations/002-intake';

/** In their order, for ever: a migration that has landed is never edited. */
export const MIGRATIONS: { name: string; statements: string }[] = [
  { name: '001-first-tables', statements: firstTables },
  { name: '002-intake', statements: intake },
];
