<script lang="ts">
  import { page } from '$app/state';
  import type { Stage } from '#core/stages/stages';
  import Dialog from '../common/Dialog.svelte';

  interface Props {
    onclose: () => void;
  }
  const { onclose }: Props = $props();

  type Line = [keys: string[], what: string];
  const EVERYWHERE: Line[] = [
    [['/'], 'type into the sentence'],
    [['?'], 'these keys'],
    [['Esc'], 'close what is open'],
  ];
  /** Wherever a record card stands. */
  const CARD: Line[] = [
    [['Tab'], 'on the record card: to the next field'],
    [['Alt', '↓'], 'in a field of it: to the next item'],
    [['Ctrl', 'Z'], 'take back what was written; with Shift do it again'],
    [['Alt', '1', '…', '6'], 'where terms are typed: give the one that was given last, and before'],
  ];
  /** What gives stages, as their keeper chose. */
  const stageKeys = $derived(
    ((page.data as { stages?: Pick<Stage, 'key' | 'retired'>[] }).stages ?? []).flatMap(
      ({ key, retired }) => (key && !retired ? [key.toUpperCase()] : []),
    ),
  );
  const screens = $derived<{ path: string; view?: string; title: string; lines: Line[] }[]>([
    {
      path: '/side',
      title: 'Side by side',
      lines: [
        [['←', '→'], 'go from picture to picture'],
        [['↑'], 'keep: one pip, unless it has more'],
        [['↓'], 'reject, and the next instead'],
        [['Space'], 'the next instead'],
        [['Enter'], 'closer: 1 : 1, and back to fit'],
        [['+', '−'], 'nearer, further'],
        [['Alt', 'Enter'], 'move together, or each by itself'],
        [['0', '…', '5'], 'pips'],
        [stageKeys, 'stages'],
        [['Esc'], 'back'],
      ],
    },
    {
      path: '/catalogue/',
      title: 'Close view',
      lines: [
        [['←', '→'], 'previous and next'],
        [['Enter'], 'closer: 1 : 1, and back to fit; with Shift 2 : 1'],
        [['*'], 'fill'],
        [['+', '−'], 'nearer, further'],
        [['Alt', 'Enter'], 'show one after the other; Space pauses'],
        [['Alt', '↓'], 'strip'],
        [['Alt', '↑'], 'histogram'],
        [['↑', '↓'], 'in a pass: keep, reject, and on to the next'],
        [['Space'], 'play, pause'],
        [[',', '.'], 'one frame back, one on'],
        [['PgUp', 'PgDn'], 'page back, page on'],
        [['0', '…', '5'], 'pips'],
        [['N'], 'reject'],
        [stageKeys, 'stages'],
        [['Esc'], 'back to the wall'],
        ...CARD,
      ],
    },
    {
      path: '/catalogue',
      view: 'register',
      title: 'Register',
      lines: [
        [['H'], 'holdings'],
        [['↑', '↓'], 'go from row to row'],
        [['←', '→'], 'go from cell to cell'],
        [['F2'], 'write into the cell; Enter goes on, Esc leaves it'],
        [['Alt', '← →'], 'on a column’s name: move the column'],
        [['Ctrl', 'C'], 'copy as CSV'],
        [['Shift', '↑ ↓'], 'take along into the selection'],
        [['Ctrl', 'A'], 'select everything found'],
        [['Enter'], 'close view'],
        [['0', '…', '5'], 'pips'],
        [['N'], 'reject'],
        [stageKeys, 'stages'],
      ],
    },
    {
      path: '/catalogue',
      title: 'Catalogue',
      lines: [
        [['←', '→', '↑', '↓'], 'go from picture to picture'],
        [['Shift', '← →'], 'take along into the selection'],
        [['Space'], 'peek'],
        [['F2'], 'another name for the file'],
        [['Enter'], 'close view'],
        [['Shift', 'Enter'], 'select or let go'],
        [['Ctrl', 'A'], 'select everything found'],
        [['0', '…', '5'], 'pips'],
        [['N'], 'reject'],
        [stageKeys, 'stages'],
        [['H'], 'holdings'],
        [['+', '−'], 'larger, smaller'],
        [['Esc'], 'let go of the selection'],
        ...CARD,
      ],
    },
    {
      path: '/intake',
      title: 'Intake',
      lines: [
        [['Space'], 'choose or leave a file'],
        [['Tab'], 'next'],
      ],
    },
    {
      path: '/lists',
      title: 'Thesaurus',
      lines: [
        [['↑', '↓'], 'go from term to term'],
        [['→', '←'], 'open, close a branch'],
        [['Enter'], 'the term’s card'],
      ],
    },
  ]);
  const here = $derived(
    screens.find(
      ({ path, view }) =>
        page.url.pathname.startsWith(path) &&
        (view === undefined || view === page.url.searchParams.get('view')),
    ),
  );
</script>

<Dialog title="Keys{here ? `: ${here.title}` : ''}" {onclose}>
  <dl>
    {#each [...(here?.lines ?? []), ...EVERYWHERE] as [keys, what] (what)}
      <dt>
        {#each keys as key (key)}<kbd>{key}</kbd>{/each}
      </dt>
      <dd>{what}</dd>
    {/each}
  </dl>
</Dialog>

<style>
  dt {
    display: flex;
    gap: 4px;
  }
  dl {
    display: grid;
    grid-template-columns: 180px 1fr;
    gap: 8px 12px;
  }
</style>
