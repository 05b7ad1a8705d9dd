import type { Box, Cluster } from '#core/atlas/clusters';
import type { Density, Unit } from '#core/timeline/bins';
import type { Choice, Choices, FolderNode, Wall } from '#core/catalogue/tile';
import { closest, nodeOfName, type Close } from '#core/choices/closest';
import type { Field } from '#core/fields/field';
import { fieldOf, knownField } from '#core/fields/registry';
import { TYPES, type TypeTraits } from '#core/fields/types';
import type { Facets } from '#core/index/answers';
import { shelfOf, type Shelf } from '#core/holdings/shelf';
import { formatQuery } from '#core/query/grammar';
import { EVERYTHING, groupFieldOf, refTo, type Query } from '#core/query/tree';
import { nodesOfSight, type Sight } from '#core/sight/viewer';
import {
  colourChoices,
  countedQuery,
  shownChoices,
  summedUp,
  timeChoices,
} from '#core/choices/shown';
import type { LivingIndex, SeenQuery } from './living';
import type { Names } from './names';

/** What the index is asked, and what it answers. */
export type Ask =
  | { ask: 'total'; query: Query }
  | { ask: 'wall'; query: Query }
  | { ask: 'stretch'; query: Query; from: number; count: number }
  | { ask: 'ids'; query: Query; from: number; to: number }
  | { ask: 'neighbours'; query: Query; id: string }
  | { ask: 'choices'; query: Query; field: string; at: number; typed: string }
  | { ask: 'sums'; query: Query; field: string; values: string[] }
  | { ask: 'folders'; query: Query }
  | { ask: 'shelf'; query: Query; folder: string | null }
  | { ask: 'density'; query: Query; field: string; unit: Unit }
  | { ask: 'positions'; query: Query; box: Box; cell: number }
  | { ask: 'closest'; query: Query; typed: string }
  | { ask: 'facets'; query: Query; fields: string[]; page: number };

interface Answered {
  total: number;
  wall: Wall;
  stretch: number[];
  ids: string[];
  neighbours: { index: number; total: number; previous: string | null; next: string | null } | null;
  choices: Choices;
  sums: Record<string, number>;
  folders: FolderNode[];
  shelf: Shelf;
  density: Density;
  positions: { clusters: Cluster[]; lacking: number };
  /** The nearest names, with what each would find of everything. */
  closest: (Close & { count: number })[];
  facets: {
    total: number;
    ids: string[];
    facets: Facets;
  };
}
export type AnswerTo<A extends Ask> = Answered[A['ask']];

const MOST_FACETS = 100;

/** One answer of one version of the index. */
export async function answerFrom<A extends Ask>(
  living: LivingIndex,
  { sight = null, ...asked }: A & Seeing,
): Promise<AnswerTo<A>> {
  const nodes = nodesOfSight(sight, sight && (await accessOf(living)));
  const query: SeenQuery = { ...asked.query, where: [...asked.query.where, ...nodes], seen: nodes };
  return (await answers[asked.ask](living, { ...asked, query } as never)) as AnswerTo<A>;
}

/** What of everything the one who asks may see. */
export interface Seeing {
  sight?: Sight | null;
}

/** The states of access that any item is in: where all of them are seen nothing needs to be left out. */
const accessOf = (living: LivingIndex): Promise<string[]> =>
  living.remember('access', async () => {
    const { counts } = living.answers.count(EVERYTHING, 'access', await living.around(EVERYTHING));
    return [...counts.keys()].map(String);
  });

/** Kinds of questions. */
export const ASKS = [
  ...([
    'total',
    'wall',
    'stretch',
    'ids',
    'neighbours',
    'choices',
    'sums',
    'folders',
    'shelf',
  ] as const),
  ...(['density', 'positions', 'closest', 'facets'] as const),
] satisfies Ask['ask'][];

const answers: {
  [K in Ask['ask']]: (living: LivingIndex, asked: Extract<Ask, { ask: K }>) => Promise<Answered[K]>;
} = {
  async total(living, { query }) {
    return living.answers.found(query, await living.around(query)).count;
  },
  async wall(living, { query }) {
    const rows = living.answers.rows(query, await living.around(query));
    const field = groupFieldOf(query);
    const isRef = field !== null && fieldOf(field)?.of !== undefined;
    const groups = living.answers.groups(rows, field);
    return {
      total: rows.length,
      bytes: living.answers.bytes(rows),
      groups: groups.map((group) => {
        const label = isRef && group.key ? labelOf(living, field!, group.key) : undefined;
        return label === undefined ? group : { ...group, label };
      }),
    };
  },
  async stretch(living, { query, from, count }) {
    const rows = living.answers.rows(query, await living.around(query));
    return Array.from(rows.subarray(from, from + count), (row) => living.index.aspects[row]!);
  },
  async ids(living, { query, from, to }) {
    const rows = living.answers.rows(query, await living.around(query));
    return Array.from(rows.subarray(from, to), (row) => living.index.idOf(row));
  },
  async neighbours(living, { query, id }) {
    const rows = living.answers.rows(query, await living.around(query));
    const row = living.index.rowOf(id);
    const index = row === undefined ? -1 : rows.indexOf(row);
    if (index < 0) return null;
    const idAt = (at: number): string | null =>
      at >= 0 && at < rows.length ? living.index.idOf(rows[at]!) : null;
    return { index, total: rows.length, previous: idAt(index - 1), next: idAt(index + 1) };
  },
  async choices(living, { query, field: key, at, typed }) {
    const field = knownField(key);
    const rest = countedQuery(query, at);
    return CHOICES[TYPES[field.type].choices](living, rest, field, typed);
  },
  async sums(living, { query, field, values }) {
    const { counts } = living.answers.count(query, field, await living.around(query));
    return Object.fromEntries(values.map((value) => [value, counts.get(value) ?? 0]));
  },
  folders: (living, { query }) =>
    living.remember(`folders ${formatQuery(query)}`, () => treeOf(living, query)),
  async shelf(living, { query, folder }) {
    return shelfOf(await answers.folders(living, { ask: 'folders', query }), folder);
  },
  async density(living, { query, field, unit }) {
    return living.answers.density(query, field, unit, await living.around(query));
  },
  async positions(living, { query, box, cell }) {
    return living.answers.positions(query, box, cell, await living.around(query));
  },
  async closest(living, { query, typed }) {
    const near = closest(living.nameList(), typed);
    const around = await living.around(query);
    // Counted in one go where there may be many; the others one by one.
    const terms = near.some(({ kind }) => kind === 'term')
      ? living.answers.count(query, 'terms', around).counts
      : null;
    const folders = near.some(({ kind }) => kind === 'folder')
      ? new Map(
          (await answers.folders(living, { ask: 'folders', query })).map(({ id, count }) => [
            id,
            count,
          ]),
        )
      : null;
    const found: (Close & { count: number })[] = [];
    for (const one of near) {
      const known =
        one.kind === 'term'
          ? (terms?.get(one.id) ?? 0)
          : one.kind === 'folder'
            ? folders?.get(one.id)
            : undefined;
      const whole: Query = { ...query, where: [...query.where, nodeOfName(one)] };
      const count = known ?? living.answers.found(whole, await living.around(whole)).count;
      found.push({ ...one, count });
    }
    return found;
  },
  async facets(living, { query, fields, page }) {
    const around = await living.around(query);
    const total = living.answers.found(query, around).count;
    const ids = Array.from(living.answers.first(query, around, page), (row) =>
      living.index.idOf(row),
    );
    const facets = await living.counting((how) =>
      living.answers.facets(query, fields, around, MOST_FACETS, how),
    );
    return { total, ids, facets };
  },
};

/** Choices of a field among what a query finds, by what is counted of its type. */
type Choosing = (
  living: LivingIndex,
  query: Query,
  field: Field,
  typed: string,
) => Promise<Choices>;

async function countsOf(living: LivingIndex, query: Query, { key }: Field) {
  const around = await living.around(query);
  return living.remember(`counts ${key} ${formatQuery(query)}`, () =>
    Promise.resolve(living.answers.count(query, key, around)),
  );
}
/** Choices made of the counts of values. */
const fromCounts =
  (choices: (living: LivingIndex, field: Field, counts: Counts) => Choice[]): Choosing =>
  async (living, query, field, typed) => {
    const { counts, lacking, histogram } = await countsOf(living, query, field);
    return { ...shownChoices(field, choices(living, field, counts), typed, histogram), lacking };
  };
type Counts = Map<string | number, number>;

const CHOICES: Record<TypeTraits['choices'], Choosing> = {
  none: fromCounts(() => []),
  times: fromCounts((_, __, counts) =>
    timeChoices([...counts].map(([value, count]) => ({ value: String(value), count }))),
  ),
  values: fromCounts(valuesFrom),
  async folders(living, query, field, typed) {
    const nodes = await answers.folders(living, { ask: 'folders', query });
    const all = nodes.map(({ id, parentId, name, count }) => ({
      value: refTo(id),
      label: name,
      count,
      under: parentId && refTo(parentId),
    }));
    return { ...shownChoices(field, all, typed), lacking: 0 };
  },
  async colours(living, query, field, typed) {
    const around = await living.around(query);
    const { lacking } = await countsOf(living, query, field);
    const all = await colourChoices((near) =>
      Promise.resolve(
        living.answers.found({ ...query, where: [...query.where, near] }, around).count,
      ),
    );
    return { ...shownChoices(field, all, typed), lacking };
  },
};

function labelOf(living: LivingIndex, field: string, id: string): string | undefined {
  const { of } = knownField(field);
  if (!of) return undefined;
  if (of !== 'folder') return living.names.labels[of].get(id);
  const folder = living.names.folders.get(id);
  return (
    folder &&
    (folder.path ? `${folder.place} › ${folder.path.replaceAll('/', ' › ')}` : folder.place)
  );
}

const trees = new WeakMap<Names, ReadonlyMap<string, string>>();
/** The first broader term of each that has one, by id. */
function broaderOf(names: Names): ReadonlyMap<string, string> {
  const known = trees.get(names);
  if (known) return known;
  const tree = new Map<string, string>();
  for (const { id, broader } of names.terms.values()) {
    const above = names.terms.get(broader[0] ?? -1);
    if (above) tree.set(id, above.id);
  }
  trees.set(names, tree);
  return tree;
}

function valuesFrom(living: LivingIndex, field: Field, counts: Counts): Choice[] {
  if (field.of === 'term') {
    const broader = broaderOf(living.names);
    return [...counts].map(([id, count]) => {
      const above = broader.get(String(id));
      return {
        value: refTo(String(id)),
        label: living.names.labels.term.get(String(id)) ?? '',
        count,
        under: above ? refTo(above) : null,
      };
    });
  }
  if (field.of) {
    const labels = living.names.labels[field.of];
    return [...counts].map(([id, count]) => ({
      value: refTo(String(id)),
      label: labels.get(String(id)) ?? String(id),
      count,
    }));
  }
  if (field.values && field.key !== 'format')
    return field.values.map(({ key: value, label }) => ({
      value,
      label,
      count: counts.get(value) ?? 0,
    }));
  const labels = new Map((field.values ?? []).map(({ key: value, label }) => [value, label]));
  return [...counts].map(([value, count]) => ({
    value,
    label: labels.get(String(value)) ?? String(value),
    count,
  }));
}

/** Every folder with what a query finds in it, parents before children. */
async function treeOf(living: LivingIndex, query: Query): Promise<FolderNode[]> {
  const found = living.answers.folders(query, await living.around(query));
  const { folders } = living.names;
  const iso = (at: number): string | null =>
    Number.isFinite(at) ? new Date(at).toISOString().slice(0, 23) : null;
  const nodes = [...folders].map(([id, folder]): FolderNode => {
    const own = found.get(id);
    return {
      id,
      ...folder,
      count: own?.here ?? 0,
      here: own?.here ?? 0,
      folders: 0,
      from: own ? iso(own.from) : null,
      to: own ? iso(own.to) : null,
    };
  });
  const keyOf = ({ place, path }: FolderNode): string =>
    `${place}/${path}`.toLowerCase().replaceAll('/', '\u0001');
  return summedUp(nodes.sort((a, b) => (keyOf(a) < keyOf(b) ? -1 : 1)));
}
