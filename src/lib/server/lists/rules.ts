import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { TERM_RULES_ID } from '#core/entries/rules';
import { FIELDS } from '#core/records/fields';
import { mayAllow, type HouseRule } from '#core/records/rules';
import type { TermRules } from '#core/terms/rules';
import type { Database } from '../db/schema';
import { houseRules } from '../records/rules';
import { changeLists, entryOf, refuseStale, type EntryChange } from './journal';

/** @throws ArchiveError value-refused where a field is named twice or asks for nothing */
function refuseUnusable(rules: readonly HouseRule[]): void {
  if (new Set(rules.map(({ field }) => field)).size < rules.length)
    throw new ArchiveError('value-refused', 'A field stands there twice.');
  for (const { field, required, allowed, like } of rules) {
    const { label } = FIELDS[field];
    if (!required && allowed.length === 0 && like === '')
      throw new ArchiveError('value-refused', `The rule for ${label} asks for nothing.`);
    if ((allowed.length > 0 || like !== '') && !mayAllow(field))
      throw new ArchiveError('value-refused', `${label} has values of its own.`);
  }
}

/**
 * Set the rules of the house; every item is counted by them anew.
 * @param seen the rules as whoever changed them saw them
 * @throws ArchiveError value-refused; conflict where somebody else changed one of them meanwhile
 */
export async function setHouseRules(
  db: Kysely<Database>,
  actorId: string | null,
  rules: readonly HouseRule[],
  seen?: readonly HouseRule[],
): Promise<void> {
  refuseUnusable(rules);
  await changeLists(db, actorId, async (transaction) => {
    const byField = (list: readonly HouseRule[]) => new Map(list.map((one) => [one.field, one]));
    const [now, wished, saw] = [
      byField(await houseRules(transaction)),
      byField(rules),
      seen && byField(seen),
    ];
    const entries = [...new Set([...now.keys(), ...wished.keys()])].map((id): EntryChange => {
      const [before, after] = [now.get(id) ?? null, wished.get(id) ?? null];
      if (saw) refuseStale('rule', before, saw.get(id) ?? null);
      return { list: 'rule', id, before, after };
    });
    return { summary: 'Changed the rules of the house', entries };
  });
}

/** Set what the house wants of terms that are given. */
export async function setTermRules(
  db: Kysely<Database>,
  actorId: string | null,
  after: TermRules,
): Promise<void> {
  await changeLists(db, actorId, async (transaction) => ({
    summary: 'Changed what is wanted of terms',
    entries: [
      {
        list: 'termRules',
        id: TERM_RULES_ID,
        before: await entryOf(transaction, 'termRules', TERM_RULES_ID),
        after,
      },
    ],
  }));
}
