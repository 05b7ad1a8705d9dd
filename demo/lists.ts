import type { ContributorEntry, SpotEntry, StampEntry, TermLabel } from '#core/lists/entries';
import type { House } from '#server/house/house';
import { newId } from '#server/house/ids';
import { termsNamed, typedTerms } from '#server/terms/terms';
import { PEOPLE, SPOTS } from './sessions';

/** What the workshop keeps on its lists: terms, who is credited, and what is written again and again. */
const TERMS = [
  'Box kite under Kite',
  'Night kite under Kite',
  'Sail under Kite',
  'Dune under Shore',
  'Groyne under Shore',
  'Tidal flat under Shore',
  'Bench under Workshop',
  'Table under Workshop',
  'Store under Workshop',
  'Shears under Tool',
  'Handler under People',
  'Crowd under People',
  'Dusk under Light',
];

const LABELS: [term: string, ...labels: TermLabel[]][] = [
  [
    'Kite',
    { kind: 'preferred', lang: 'de', label: 'Drachen' },
    { kind: 'preferred', lang: 'fr', label: 'Cerf-volant' },
  ],
  ['Box kite', { kind: 'also', lang: '', label: 'Cellular kite' }],
  ['Dusk', { kind: 'also', lang: '', label: 'Nightfall' }],
  ['Groyne', { kind: 'hidden', lang: '', label: 'Groin' }],
];
const NOTES: Record<string, string> = {
  Kite: 'Whatever flies on a line. For the sewn part alone: Sail.',
  Handler: 'Whoever holds the line or the frame; onlookers are Crowd.',
};

const contributor = (name: string): ContributorEntry => ({
  name,
  kind: 'person',
  also: name === 'Bea Lund' ? ['B. Lund'] : [],
  creditLine: `${name} / Saltreach Kites`,
  copyrightNotice: '© Saltreach Kites',
  usageTerms: 'For Wind Week and the workshop’s own pages.',
  email: `${name.split(' ')[0]!.toLowerCase()}@saltreach.example`,
  phone: '',
  web: '',
  note: '',
  retired: false,
});

const STAMPS: StampEntry[] = [
  {
    name: 'Festival book',
    project: 'Wind Week',
    lines: [
      { field: 'event', way: 'fill', value: 'Wind Week {taken yyyy}' },
      { field: 'copyrightNotice', way: 'fill', value: '© {taken yyyy} Saltreach Kites' },
      { field: 'terms', way: 'add', value: ['Wind Week'] },
    ],
  },
  {
    name: 'Ask before print',
    project: '',
    lines: [
      { field: 'instructions', way: 'add', value: 'Ask the rights desk before print.' },
      { field: 'stage', way: 'fill', value: 'To look over' },
    ],
  },
];

const PLACES: [name: string, at: keyof typeof SPOTS, radius: number][] = [
  ['The workshop', 'workshop', 200],
  ['The north groyne', 'shore', 450],
  ['The harbour', 'harbour', 250],
];
const placeKept = ([name, at, radius]: (typeof PLACES)[number]): SpotEntry => {
  const [latitude, longitude] = SPOTS[at]!;
  return {
    ...{ name, latitude, longitude, radius },
    ...{ sublocation: '', city: 'Saltreach', state: '', country: '', note: '' },
  };
};

/** Once: what somebody changed later stays. */
export async function makeLists({ db }: House): Promise<void> {
  await typedTerms(db, TERMS);
  const known = await db.selectFrom('contributor').select('id').limit(1).executeTakeFirst();
  if (known) return;
  const ids = await termsNamed(
    db,
    LABELS.map(([term]) => term),
  );
  await db
    .insertInto('termLabel')
    .values(
      LABELS.flatMap(([term, ...labels]) =>
        labels.map((one) => ({ termId: ids.get(term)!, ...one })),
      ),
    )
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  for (const [label, note] of Object.entries(NOTES))
    await db.updateTable('term').set({ note }).where('label', '=', label).execute();
  await db
    .insertInto('contributor')
    .values(PEOPLE.map((name) => ({ id: newId(), ...contributor(name) })))
    .execute();
  await db
    .insertInto('spot')
    .values(PLACES.map((one) => ({ id: newId(), ...placeKept(one) })))
    .execute();
  await db
    .insertInto('stamp')
    .values(
      STAMPS.map(({ lines, ...stamp }) => ({
        id: newId(),
        ...stamp,
        lines: JSON.stringify(lines),
      })),
    )
    .onConflict((conflict) => conflict.doNothing())
    .execute();
}
