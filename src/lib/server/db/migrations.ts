import { firstTables } from './migrations/001-first-tables';
import { intake } from './migrations/002-intake';
import { doors } from './migrations/003-doors';

/** In their order, for ever: a migration that has landed is never edited. */
export const MIGRATIONS: { name: string; statements: string }[] = [
  { name: '001-first-tables', statements: firstTables },
  { name: '002-intake', statements: intake },
  { name: '003-doors', statements: doors },
];
