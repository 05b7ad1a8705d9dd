import { sql } from 'kysely';
import { FIELDS } from '#core/records/fields';
import type { HouseRule } from '#core/records/rules';
import { NO_TERM_RULES, type TermRules } from '#core/terms/rules';
import { TERM_RULES_ID } from '#core/entries/rules';
import { regexOfMask } from '#core/text/mask';
import { isHeld } from '../../sight/seen';
import type { Db, Store } from './store';

/** A setting as it is kept; undefined: it was never set. */
export async function settingOf(db: Db, key: string): Promise<unknown> {
  const row = await db
    .selectFrom('setting')
    .select('value')
    .where('key', '=', key)
    .executeTakeFirst();
  return row?.value;
}

async function setSetting(db: Db, key: string, kept: unknown): Promise<void> {
  const value = JSON.stringify(kept);
  await db
    .insertInto('setting')
    .values({ key, value })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ value }))
    .execute();
}

/** Where they are kept: with the labels of their fields, by which items are found and counted. */
export const HOUSE_RULES = 'rules';

const kept = async (db: Db): Promise<HouseRule[]> =>
  ((await settingOf(db, HOUSE_RULES)) as HouseRule[] | undefined) ?? [];

async function keepRules(db: Db, rules: readonly HouseRule[]): Promise<void> {
  await setSetting(
    db,
    HOUSE_RULES,
    rules.map(({ field, required, allowed, like }) => ({
      field,
      required,
      allowed,
      like,
      label: FIELDS[field].label,
      // The database tells who breaks it by the same.
      regex: like === '' ? '' : regexOfMask(like),
    })),
  );
  await sql`insert into change_log (kind, subject) select 'item', id from item where ${isHeld('item')}`.execute(
    db,
  );
}

/** The rules of the house, by their fields; every item is counted by them anew. */
export const houseRules: Store<HouseRule> = {
  async read(db, ids) {
    return new Map(
      (await kept(db))
        .filter(({ field }) => ids.includes(field))
        .map(({ field, required, allowed, like }) => [
          field,
          { field, required, allowed, like: like ?? '' },
        ]),
    );
  },
  async put(db, entries) {
    const before = await kept(db);
    const added = [...entries.values()].filter(
      ({ field }) => !before.some((one) => one.field === field),
    );
    await keepRules(db, [...before.map((one) => entries.get(one.field) ?? one), ...added]);
  },
  async drop(db, ids) {
    await keepRules(
      db,
      (await kept(db)).filter(({ field }) => !ids.includes(field)),
    );
  },
};

/** What the house wants of terms that are given: there is always one. */
export const termRules: Store<TermRules> = {
  async read(db) {
    const value = (await settingOf(db, TERM_RULES_ID)) as TermRules | undefined;
    return new Map([[TERM_RULES_ID, value ?? NO_TERM_RULES]]);
  },
  put: (db, entries) => setSetting(db, TERM_RULES_ID, entries.get(TERM_RULES_ID)),
  drop: () => Promise.resolve(),
};
