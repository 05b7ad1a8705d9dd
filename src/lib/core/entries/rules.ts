import { fieldOf } from '../fields/registry';
import type { HouseRule } from '../records/rules';
import type { TermRules } from '../terms/rules';
import type { EntryKind } from './kind';

const label = ({ field }: HouseRule): string => fieldOf(field)?.label ?? field;
const asked = (rule: HouseRule | null): string => {
  if (!rule) return 'no rule';
  const { required, allowed, like } = rule;
  const parts = [required && 'required', allowed.length > 0 && allowed.join(' or ')];
  return [...parts, like && `written like ${like}`].filter(Boolean).join(', ');
};

/** A rule of the house; the entry's id is its field. Every item is counted by it anew. */
export const rule: EntryKind<HouseRule> = {
  deed: 'lists',
  about: ['lists', 'items'],
  fields: ['unready'],
  name: (entry) => `The rule for ${label(entry)}`,
  words: (was, is) => ({
    before: `${label((was ?? is)!)}: ${asked(was)}`,
    after: asked(is),
  }),
};

/** What the house wants of terms: one entry. */
export const TERM_RULES_ID = 'terms';
export const termRules: EntryKind<TermRules> = {
  deed: 'lists',
  about: ['lists'],
  name: () => 'What is wanted of terms',
};
