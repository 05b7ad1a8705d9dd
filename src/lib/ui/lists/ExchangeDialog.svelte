<script lang="ts">
  import { changeWords } from '#core/entries/told';
  import { EXCHANGE_FORMS, type ExchangeForm, type TermChange } from '#core/terms/exchange';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Changes from '../common/Changes.svelte';
  import Dialog from '../common/Dialog.svelte';
  import Segments from '../common/Segments.svelte';
  import { act } from './act';

  /** The thesaurus as a file, and terms from files: what would change is shown before. */
  interface Told {
    changes: TermChange[];
    given: number;
  }
  interface Props {
    mayManage: boolean;
    ondone: () => unknown;
    onclose: () => void;
  }
  const { mayManage, ondone, onclose }: Props = $props();
  const FORMS = Object.entries(EXCHANGE_FORMS) as [ExchangeForm, { label: string }][];
  let file = $state.raw<{ name: string; text: string; form: ExchangeForm } | null>(null);
  let mode = $state<'add' | 'replace'>('add');
  let told = $state.raw<Told | null>(null);
  let wrong = $state('');
  let isBusy = $state(false);

  const ENDINGS: Record<string, ExchangeForm> = {
    ttl: 'ttl',
    jsonld: 'jsonld',
    json: 'jsonld',
    csv: 'csv',
    tsv: 'csv',
    txt: 'txt',
  };
  async function choose(list: FileList | null): Promise<void> {
    const chosen = list?.[0];
    if (!chosen) return;
    const form = ENDINGS[chosen.name.split('.').at(-1)!.toLowerCase()] ?? 'txt';
    file = { name: chosen.name, text: await chosen.text(), form };
    await look();
  }
  /** Only the last question is answered: an earlier answer may come later. */
  let turn = 0;
  async function look(): Promise<void> {
    if (!file) return;
    const mine = ++turn;
    [told, wrong, isBusy] = [null, '', true];
    const { text, form } = file;
    const found = await api
      .post('/api/lists/terms/file', { text, form, mode, dry: true })
      .catch((error: unknown) => error as Error);
    if (mine !== turn) return;
    if (found instanceof Error) wrong = found.message;
    else told = found;
    isBusy = false;
  }
  async function take(): Promise<void> {
    const { text, form } = file!;
    isBusy = true;
    const done = await act(
      `${counted(told!.changes.length, 'term')} taken in`,
      () => api.post('/api/lists/terms/file', { text, form, mode, dry: false }),
      ondone,
    );
    isBusy = false;
    if (done) onclose();
  }
  const lines = $derived(
    (told?.changes ?? []).map(({ before, after }) => ({
      label: after.label,
      ...(before
        ? changeWords('term', before, after)
        : { before: 'new', after: after.broader.length > 0 ? 'under others' : 'at the top' }),
    })),
  );
  const made = $derived((told?.changes ?? []).filter(({ before }) => !before).length);
</script>

<Dialog title="The thesaurus in files" wide {onclose}>
  <p class="label">Take it out</p>
  <p class="forms">
    {#each FORMS as [form, { label }] (form)}
      <a class="button" href="/api/lists/terms/file?form={form}" download>{label}</a>
    {/each}
  </p>
  {#if mayManage}
    <p class="label next">Take terms in</p>
    <div class="in">
      <input
        type="file"
        aria-label="File with terms"
        accept=".ttl,.jsonld,.json,.csv,.tsv,.txt"
        onchange={(event) => void choose(event.currentTarget.files)}
      />
      {#if file}
        <select
          class="choice"
          aria-label="What the file is"
          value={file.form}
          onchange={(event) => {
            file = { ...file!, form: event.currentTarget.value as ExchangeForm };
            void look();
          }}
        >
          {#each FORMS as [form, { label }] (form)}<option value={form}>{label}</option>{/each}
        </select>
        <Segments
          label="Terms that are here already"
          options={[
            { value: 'add', words: 'add what is new' },
            { value: 'replace', words: 'make them as the file says' },
          ]}
          value={mode}
          onchange={(next) => {
            mode = next;
            void look();
          }}
        />
      {/if}
    </div>
    {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
    {#if told}
      <p class="told" aria-live="polite">
        The file holds {counted(told.given, 'term')}: {made} new, {told.changes.length - made} changed,
        {Math.max(0, told.given - told.changes.length)} as they are. Terms it does not name stay.
      </p>
      {#if lines.length > 0}
        <Changes label="Terms before and after" count={lines.length} columns="200px 1fr 1fr">
          {#snippet cells(at)}
            <span role="cell">{lines[at]!.label}</span>
            <span class="pencil" role="cell">{lines[at]!.before}</span>
            <span role="cell">{lines[at]!.after}</span>
          {/snippet}
        </Changes>
      {/if}
    {:else if isBusy}<p class="pencil">Reading …</p>{/if}
  {/if}
  {#snippet foot()}
    {#if mayManage}
      <button
        class="button act"
        type="button"
        disabled={isBusy || !told || told.changes.length === 0}
        onclick={() => void take()}>Take in {counted(told?.changes.length ?? 0, 'term')}</button
      >
      <span class="pencil">One step; the ledger takes it back.</span>
    {/if}
  {/snippet}
</Dialog>

<style>
  .forms,
  .in {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: center;
  }
  .next {
    margin-top: 20px;
  }
  .told {
    margin: 10px 0 6px;
  }
</style>
