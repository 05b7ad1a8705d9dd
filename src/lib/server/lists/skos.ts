import jsonld from 'jsonld';
import { DataFactory, Parser, Writer, type Quad, type Quad_Object } from 'n3';
import { parse as parseCsv } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { ArchiveError } from '#core/errors';
import type { TermLabel } from '#core/lists/entries';
import type { ExchangedTerm, ExchangeForm } from '#core/terms/exchange';
import { outlineOf, termsFromOutline } from '#core/terms/outline';
import { rowOfTerm, TERM_COLUMNS, termsFromRows } from '#core/terms/table';

/** Thesauri in and out of files. Reading is run apart: what others made is not parsed where pages are answered. */
const SKOS = 'http://www.w3.org/2004/02/skos/core#';
const RDF_TYPE = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#type';
const DEPRECATED = 'http://www.w3.org/2002/07/owl#deprecated';
const BOOLEAN = 'http://www.w3.org/2001/XMLSchema#boolean';
const SCHEME = 'urn:mindful:thesaurus';

const LABELS: Record<TermLabel['kind'], string> = {
  preferred: `${SKOS}prefLabel`,
  also: `${SKOS}altLabel`,
  hidden: `${SKOS}hiddenLabel`,
};
const iriOf = (key: string): string => `urn:uuid:${key}`;
const idOf = (iri: string): string | null =>
  /^urn:uuid:([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})$/i.exec(iri)?.[1]?.toLowerCase() ?? null;

function quadsOf(terms: readonly ExchangedTerm[]): Quad[] {
  const { namedNode: node, literal, quad } = DataFactory;
  const known = new Set(terms.map(({ key }) => key));
  const quads = [quad(node(SCHEME), node(RDF_TYPE), node(`${SKOS}ConceptScheme`))];
  for (const term of terms) {
    const self = node(iriOf(term.key));
    const say = (what: string, value: Quad_Object) => quads.push(quad(self, node(what), value));
    say(RDF_TYPE, node(`${SKOS}Concept`));
    say(`${SKOS}inScheme`, node(SCHEME));
    say(LABELS.preferred, literal(term.label));
    for (const { kind, lang, label } of term.labels)
      say(LABELS[kind], lang ? literal(label, lang) : literal(label));
    for (const above of term.broader)
      if (known.has(above)) say(`${SKOS}broader`, node(iriOf(above)));
    for (const other of term.related)
      if (known.has(other)) say(`${SKOS}related`, node(iriOf(other)));
    if (term.broader.length === 0) say(`${SKOS}topConceptOf`, node(SCHEME));
    if (term.note) say(`${SKOS}scopeNote`, literal(term.note));
    if (term.retired) say(DEPRECATED, literal('true', node(BOOLEAN)));
  }
  return quads;
}

const turtleOf = (terms: readonly ExchangedTerm[]): Promise<string> =>
  new Promise((resolve, reject) => {
    const writer = new Writer({ prefixes: { skos: SKOS, owl: 'http://www.w3.org/2002/07/owl#' } });
    writer.addQuads(quadsOf(terms));
    writer.end((error, text: string) => (error ? reject(error) : resolve(text)));
  });

const CONTEXT = {
  skos: SKOS,
  prefLabel: { '@id': 'skos:prefLabel' },
  broader: { '@id': 'skos:broader', '@type': '@id' },
  related: { '@id': 'skos:related', '@type': '@id' },
  inScheme: { '@id': 'skos:inScheme', '@type': '@id' },
  topConceptOf: { '@id': 'skos:topConceptOf', '@type': '@id' },
};

async function jsonLdOf(terms: readonly ExchangedTerm[]): Promise<string> {
  const expanded = (await jsonld.fromRDF(quadsOf(terms) as object)) as jsonld.JsonLdDocument;
  const compact = await jsonld.compact(expanded, CONTEXT, { documentLoader: nothingOutside });
  return `${JSON.stringify(compact, null, 2)}\n`;
}

/** Nothing is fetched, whatever a file asks for. */
const nothingOutside = (url: string): never => {
  throw new ArchiveError(
    'file-unreadable',
    `It names a context that lies elsewhere (${url.slice(0, 200)}): nothing is fetched. Write the context into the file.`,
  );
};

/** A file of a thesaurus. */
export async function writtenThesaurus({
  terms,
  form,
}: {
  terms: ExchangedTerm[];
  form: ExchangeForm;
}): Promise<string> {
  if (form === 'ttl') return turtleOf(terms);
  if (form === 'jsonld') return jsonLdOf(terms);
  if (form === 'txt') return outlineOf(terms);
  const labels = new Map(terms.map(({ key, label }) => [key, label]));
  const rows = terms.map((term) => rowOfTerm(term, (key) => labels.get(key) ?? ''));
  return stringify(rows, { header: true, columns: [...TERM_COLUMNS], bom: true });
}

/** What is between the lines of RDF we read: subject, predicate and object as text. */
interface Fact {
  subject: string;
  what: string;
  value: string;
  lang: string;
}

const factsOf = (quads: readonly Quad[]): Fact[] =>
  quads.map(({ subject, predicate, object }) => ({
    subject: subject.value,
    what: predicate.value,
    value: object.value,
    lang: 'language' in object ? object.language : '',
  }));

async function quadsFrom(text: string, form: 'ttl' | 'jsonld'): Promise<Quad[]> {
  if (form === 'ttl') return new Parser({ baseIRI: 'urn:mindful:file/' }).parse(text);
  const read = JSON.parse(text) as object;
  return (await jsonld.toRDF(read, { documentLoader: nothingOutside })) as Quad[];
}

/** The label a term goes by here: one of no language, of English, else the first. */
function ownLabel(labels: readonly TermLabel[]): TermLabel | undefined {
  const preferred = labels.filter(({ kind }) => kind === 'preferred');
  return (
    preferred.find(({ lang }) => lang === '') ??
    preferred.find(({ lang }) => /^en\b/.test(lang)) ??
    preferred[0]
  );
}

function termsFromFacts(facts: readonly Fact[]): ExchangedTerm[] {
  const found = new Map<string, ExchangedTerm>();
  const named = (iri: string): ExchangedTerm => {
    const own: ExchangedTerm = found.get(iri) ?? {
      key: iri,
      id: idOf(iri),
      label: '',
      labels: [],
      broader: [],
      related: [],
      note: '',
      retired: false,
    };
    found.set(iri, own);
    return own;
  };
  const kinds = new Map(Object.entries(LABELS).map(([kind, what]) => [what, kind]));
  for (const { subject, what, value, lang } of facts) {
    const kind = kinds.get(what) as TermLabel['kind'] | undefined;
    if (kind) named(subject).labels.push({ kind, lang, label: value.trim() });
    else if (what === `${SKOS}broader` || what === `${SKOS}broaderTransitive`)
      named(subject).broader.push(value);
    else if (what === `${SKOS}narrower`) named(value).broader.push(subject);
    else if (what === `${SKOS}related`) named(subject).related.push(value);
    else if (what === `${SKOS}scopeNote`) named(subject).note ||= value.trim();
    else if (what === DEPRECATED) named(subject).retired = value === 'true' || value === '1';
  }
  return [...found.values()].flatMap((term) => {
    const own = ownLabel(term.labels);
    // Schemes, collections and what is only named have no label of a concept.
    if (!own) return [];
    const labels = term.labels.filter((one) => one !== own);
    return [{ ...term, label: own.label, labels }];
  });
}

/** What parts the names of columns: they hold none of it. */
function delimiterOf(text: string): string {
  const head = /^.*/.exec(text.replace(/^\ufeff/, ''))![0];
  const count = (mark: string): number => head.split(mark).length;
  return [',', ';', '\t'].reduce((best, mark) => (count(mark) > count(best) ? mark : best));
}

/**
 * Terms of a file. Run apart.
 * @throws ArchiveError file-unreadable, value-refused
 */
export async function readThesaurus({
  text,
  form,
}: {
  text: string;
  form: ExchangeForm;
}): Promise<ExchangedTerm[]> {
  if (form === 'txt') return termsFromOutline(text);
  if (form === 'csv')
    return termsFromRows(
      parseCsv(text, {
        columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()),
        bom: true,
        relax_column_count: true,
        skip_empty_lines: true,
        delimiter: delimiterOf(text),
        trim: true,
      }),
    );
  try {
    return termsFromFacts(factsOf(await quadsFrom(text, form)));
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    const inner = (error as { details?: { cause?: Error } }).details?.cause;
    if (inner instanceof ArchiveError) throw inner;
    throw new ArchiveError(
      'file-unreadable',
      `It is no ${form === 'ttl' ? 'Turtle' : 'JSON-LD'}: ${(error as Error).message.slice(0, 200)}`,
    );
  }
}
