<script lang="ts">
  import { page } from '$app/state';
  import Dialog from '../common/Dialog.svelte';

  interface Props {
    onclose: () => void;
  }
  const { onclose }: Props = $props();

  type Line = [keys: string[], what: string];
  const EVERYWHERE: Line[] = [
    [['?'], 'these keys'],
    [['Esc'], 'close what is open'],
  ];
  const SCREENS: { path: string; view?: string; title: string; lines: Line[] }[] = [
    {
      path: '/catalogue/',
      title: 'Close view',
      lines: [
        [['←', '→'], 'previous and next'],
        [['Enter'], 'closer: 1 : 1, and back to fit'],
        [['+', '−'], 'nearer, further'],
        [['0', '…', '5'], 'pips'],
        [['N'], 'reject'],
        [['A', 'S', 'D', 'F', 'G'], 'stages'],
        [['Esc'], 'back to the wall'],
      ],
    },
    {
      path: '/catalogue',
      view: 'register',
      title: 'Register',
      lines: [
        [['/'], 'type into the sentence'],
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
        [['A', 'S', 'D', 'F', 'G'], 'stages'],
      ],
    },
    {
      path: '/catalogue',
      title: 'Catalogue',
      lines: [
        [['/'], 'type into the sentence'],
        [['←', '→', '↑', '↓'], 'go from picture to picture'],
        [['Shift', '← →'], 'take along into the selection'],
        [['Space'], 'peek'],
        [['Enter'], 'close view'],
        [['Shift', 'Enter'], 'select or let go'],
        [['Ctrl', 'A'], 'select everything found'],
        [['0', '…', '5'], 'pips'],
        [['N'], 'reject'],
        [['A', 'S', 'D', 'F', 'G'], 'stages'],
        [['H'], 'holdings'],
        [['+', '−'], 'larger, smaller'],
        [['Esc'], 'let go of the selection'],
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
  ];
  const here = $derived(
    SCREENS.find(
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
