<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import type { Picked } from '#core/query/picked';
  import { FIELDS, type FieldKey, type RecordChange } from '#core/records/fields';
  import type { CardContent, ShownItem } from '#core/wire/shown';
  import { isAboutAny, type LiveMessage } from '#core/live/messages';
  import type { Summary } from '#core/records/merge';
  import { sectionsAfter } from '#core/records/sections';
  import { isBlank } from '#core/records/takeOver';
  import type { Stage } from '#core/stages/stages';
  import { counted, formatBytes } from '#core/text/quantities';
  import { api, Problem } from '../common/api';
  import { calmly, hear } from '../common/live';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import { Caret } from './caret.svelte';
  import Clash, { type Clashing } from './Clash.svelte';
  import EditField from './EditField.svelte';
  import FieldLine from './FieldLine.svelte';
  import { Folds } from './folds.svelte';
  import RatingLine from './RatingLine.svelte';
  import type { HouseRule } from '#core/records/rules';
  import NameOne from '../rename/NameOne.svelte';
  import NotReady from './NotReady.svelte';
  import RecordFiles from './RecordFiles.svelte';
  import RecordVerbs from './RecordVerbs.svelte';
  import StageLine from './StageLine.svelte';
  import { summaryOf } from '../common/summary';
  import Terms from './Terms.svelte';
  import { did, redoLast, takeBack, undoLast, UNDERWAY } from '../common/undoing';
  import Why from '../sentence/Why.svelte';

  interface Props {
    ids: Picked;
    count: number;
    stages: Stage[];
    /** Fields the team wants first. */
    first: readonly FieldKey[];
    /** What the house asks for. */
    rules: readonly HouseRule[];
    canDescribe: boolean;
    canOriginal: boolean;
    /** Chooses what stands first for everybody. */
    canManage?: boolean;
    /** Gives files other names. */
    canRename?: boolean;
    /** Compact text of the sentence it is looked at under, where there is one. */
    q?: string;
    /** Go to the next or the previous item; the caret stays in its field. */
    onwalk?: (step: 1 | -1) => void;
  }
  const {
    ids,
    count,
    stages,
    first,
    rules,
    canDescribe,
    canOriginal,
    canManage = false,
    canRename = false,
    q = '',
    onwalk,
  }: Props = $props();
  let summary = $state.raw<CardContent | null>(null);
  /** What the card tells of; while it goes on to others, this still stands there. */
  let told = $state.raw<Picked | null>(null);
  let clash = $state.raw<Clashing | null>(null);
  let column = $state.raw<{ field: FieldKey; text: string } | null>(null);
  let nameOne = $state<NameOne>();
  /** Write another name for the file, where it is one. */
  export const name = (): void => nameOne?.write();
  let sought = $state('');
  let body = $state<HTMLElement>();
  const key = $derived(JSON.stringify(ids));
  /** The one item, where it is one. */
  const only = $derived(Array.isArray(ids) && ids.length === 1 ? ids[0] : null);
  const merged = $derived(summary?.merged ?? null);
  const terms = $derived(summary?.terms ?? []);
  const shown = $derived<ShownItem | null>(summary?.item ?? null);
  const original = $derived(shown?.files.find(({ role }) => role === 'original'));
  const folds = new Folds();
  onMount(() => folds.remember());
  const caret = new Caret(
    () =>
      [...(body?.querySelectorAll<HTMLElement>('[data-field]:not(:has(select))') ?? [])].map(
        (node) => node.dataset['field']!,
      ),
    (step) => onwalk?.(step),
  );

  const sections = $derived(sectionsAfter(first));
  /** Fields whose name is typed, from all sections; empty while nothing is. */
  const found = $derived.by((): FieldKey[] => {
    const typed = sought.trim().toLowerCase();
    if (!typed) return [];
    const all = [...first, ...sections.flatMap(({ fields }) => fields)];
    return all.filter((one) => FIELDS[one].label.toLowerCase().includes(typed));
  });
  const filled = (fields: readonly FieldKey[]): number =>
    fields.filter((one) => merged && (merged[one].mixed > 0 || !isBlank(merged[one].value))).length;

  async function load(): Promise<void> {
    const [asked, about] = [key, ids];
    if (count > 0) take(await summaryOf(ids), asked, about);
  }
  function take(content: CardContent, asked: string, about: Picked): void {
    if (asked !== key) return;
    summary = content;
    told = about;
    caret.item = asked;
  }

  // What the wall loads anew around the same choice begins nothing anew here.
  $effect(() => {
    void key;
    untrack(() => {
      clash = null;
      load().catch(sayWrong);
    });
  });
  $effect(() => {
    const soon = calmly(() => void load().catch(() => undefined), 400);
    return hear((message) => {
      if (isAboutThese(message)) setTimeout(() => isOwn(message) || soon(), ANSWERED_MS);
    });
  });

  /** What the card said when the caret came into its field: the text is written against that. */
  let begun: { field: string | null; seen: Summary | null } = { field: null, seen: null };
  $effect(() => {
    void caret.item;
    begun = { field: caret.at, seen: untrack(() => summary) };
  });

  /** ms in which the answer to one's own change is there: it holds what the message tells of. */
  const ANSWERED_MS = 200;
  const done: string[] = [];
  const isOwn = (message: LiveMessage): boolean =>
    message.about === 'items' && message.operation !== null && done.includes(message.operation);
  const isAboutThese = (message: LiveMessage): boolean =>
    message.about === 'again' ||
    (message.about === 'items' && (!Array.isArray(ids) || isAboutAny(message, ids)));

  let last: Promise<void> = Promise.resolve();
  /** Change what is chosen. One after the other: who types fast is not in conflict with themselves. */
  export function change(values: RecordChange, chosen: Picked = ids): Promise<void> {
    const seen = begun.field !== null && begun.field in values ? begun.seen : summary;
    last = last.then(() => changeOf(chosen, values, seen));
    return last;
  }
  /** What is written on the card is meant for what the card shows. */
  const edit = (values: RecordChange): Promise<void> => change(values, told ?? ids);

  /** The values that were seen of what is changed, as far as all shared one. */
  const baseOf = (values: RecordChange, seen: Summary): Record<string, unknown> =>
    Object.fromEntries(
      Object.keys(values).flatMap((one) => {
        const told = seen.merged?.[one as FieldKey];
        return told && told.mixed === 0 ? [[one, told.value]] : [];
      }),
    );

  async function changeOf(
    chosen: Picked,
    values: RecordChange,
    seen: Summary | null,
    over = false,
  ): Promise<void> {
    const against = seen && !over ? { versions: seen.versions, base: baseOf(values, seen) } : {};
    try {
      const asked = key;
      const { changed, operation, underway, card } = await api.patch('/api/records', {
        ids: chosen,
        change: values,
        ...against,
      });
      if (operation) {
        did(operation);
        done.push(operation);
      }
      if (JSON.stringify(chosen) === asked) take(card, asked, chosen);
      else await load();
      if (underway) sayDone(UNDERWAY);
      else if (operation && changed > 1)
        sayDone(`${counted(changed, 'record')} changed.`, {
          label: 'Undo',
          run: () => takeBack(operation),
        });
    } catch (error) {
      if (!(error instanceof Problem && error.code === 'conflict')) return sayWrong(error);
      await load();
      clash = {
        sentence: error.message,
        mine: () => void changeOf(chosen, values, seen, true).then(() => (clash = null)),
        theirs: () => (clash = null),
      };
    }
  }

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || !(event.ctrlKey || event.metaKey))
      return;
    const pressed = event.key.toLowerCase();
    if (pressed !== 'z' && pressed !== 'y') return;
    event.preventDefault();
    const act = pressed === 'y' || event.shiftKey ? redoLast : undoLast;
    last = last.then(act).catch(sayWrong);
  }
  function seek(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === 'Escape') sought = '';
    else if (event.key === 'Enter' && found[0]) {
      event.preventDefault();
      caret.at = found[0];
    }
  }
  /** Several lines over several items are a column; one text stays a text. */
  function lay(field: FieldKey, text: string): boolean {
    if (count < 2) return false;
    column = { field, text };
    caret.at = null;
    return true;
  }
  const line = $derived({
    of: summary?.count ?? 0,
    disabled: !canDescribe,
    caret,
    onchange: (values: RecordChange) => void edit(values),
    oncolumn: lay,
  });
</script>

<svelte:window onkeydown={keys} />

<aside class="card" aria-label="Record card">
  {#if count === 0}
    <p class="empty">Choose a picture to read its card, or several to describe them together.</p>
  {:else if merged}
    {#if summary?.number}
      <p class="mono pencil">
        {summary.number} · {#if original && only}{#key only}<NameOne
              bind:this={nameOne}
              id={only}
              name={original.name}
              {canRename}
              onrenamed={() => void load()}
            />{/key}{/if}
      </p>
    {:else}
      <p class="mono pencil">{counted(count, 'item')} · {formatBytes(summary?.bytes ?? 0)}</p>
    {/if}
    {#if clash}<Clash {clash} />{/if}
    {#if shown && only && Object.keys(shown.disputes).length > 0}
      {#await import('./Disputes.svelte') then { default: Disputes }}
        <Disputes
          id={only}
          version={shown!.version}
          record={shown!.record}
          disputes={shown!.disputes}
          {canDescribe}
          onsettled={load}
        />
      {/await}
    {/if}
    <NotReady {merged} {rules} many={count > 1} />
    <div bind:this={body}>
      {#if sought.trim() === ''}
        {#each ['title', 'caption'] as const as name (name)}
          <EditField
            {name}
            label={FIELDS[name].label}
            book={name}
            long={name === 'caption'}
            value={merged[name].value}
            mixed={merged[name].mixed}
            among={merged[name].among}
            missing={name === 'title' ? 'No title yet' : 'No caption yet'}
            disabled={!canDescribe}
            {caret}
            onsave={(text) => void edit({ [name]: text })}
            oncolumn={(text) => lay(name, text)}
          />
        {/each}
        <RatingLine
          rating={merged.rating}
          disabled={!canDescribe}
          onpick={(rating) => void edit({ rating })}
        />
        <StageLine
          stage={merged.stage}
          {stages}
          disabled={!canDescribe}
          onpick={(stage) => void edit({ stage })}
        />
        {#each first as name (name)}<FieldLine key={name} {merged} {...line} />{/each}
        <h3>Terms</h3>
        <Terms
          {terms}
          more={summary?.moreTerms ?? 0}
          item={only ?? null}
          many={(summary?.count ?? 0) > 1}
          disabled={!canDescribe}
          onadd={(term) => void edit({ addTerms: [term] })}
          onremove={(term) => void edit({ removeTerms: [term] })}
        />
      {/if}
      <input
        class="field seek"
        type="search"
        bind:value={sought}
        onkeydown={seek}
        aria-label="Find a field by its name"
        placeholder="find a field"
      />
      {#if sought.trim() !== ''}
        {#each found as name (name)}<FieldLine key={name} {merged} {...line} />{:else}<p
            class="pencil none"
          >
            No field is called so.
          </p>{/each}
      {:else}
        {#each sections as section (section.key)}
          {@const open = folds.open.includes(section.key)}
          <h3 class="fold">
            <button type="button" aria-expanded={open} onclick={() => folds.toggle(section.key)}
              >{section.label}<span class="pencil"
                >{filled(section.fields)} of {section.fields.length}</span
              ></button
            >
          </h3>
          {#if open}{#each section.fields as name (name)}<FieldLine
                key={name}
                {merged}
                {...line}
              />{/each}{/if}
        {/each}
      {/if}
    </div>
    <RecordVerbs
      {ids}
      {count}
      {q}
      number={only ? (summary?.number ?? null) : null}
      {merged}
      {terms}
      moreTerms={summary?.moreTerms ?? 0}
      isSettled={JSON.stringify(told) === key}
      {first}
      {canDescribe}
      {canManage}
      {column}
      onclosecolumn={() => (column = null)}
      onchange={edit}
    />
    {#if q && only}<Why {q} id={only} />{/if}
    {#if shown}
      <RecordFiles {shown} />
      {#if canOriginal}<p class="take">
          <a class="link" href="/api/items/{only}/original" download>Download the original</a>
        </p>{/if}
    {/if}
  {/if}
</aside>

<style>
  .card {
    height: 100%;
    padding: 18px 16px 80px;
    overflow: auto;
    border-left: 1px solid var(--ink);
    background: var(--card);
  }
  .empty {
    color: var(--pencil);
    font: 16.5px/1.45 var(--book);
  }
  h3 {
    margin: 12px 0 6px;
    padding-top: 12px;
    border-top: 1px solid var(--rule);
    color: var(--pencil);
    font: 600 11.5px var(--plain);
  }
  .seek {
    margin-top: 14px;
  }
  .none {
    padding: 8px 0;
  }
  .fold {
    margin: 0;
    padding: 0;
    border-top: 0;
    border-bottom: 1px solid var(--rule);
  }
  .fold button {
    display: flex;
    justify-content: space-between;
    width: 100%;
    border: 0;
    padding: 8px 0;
    background: none;
    color: var(--ink);
    font: 600 11.5px var(--plain);
  }
  .fold button:hover {
    background: var(--wash);
  }
  .fold .pencil {
    font-weight: 400;
  }
  .take {
    margin-top: 12px;
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .card {
      height: auto;
      padding-bottom: 24px;
      border-top: 1px solid var(--ink);
      border-left: 0;
    }
  }
</style>
