<script lang="ts">
  import { groupFieldOf } from '#core/query/tree';
  import type { Stage } from '#core/stages/stages';
  import { counted, formatBytes } from '#core/text/quantities';
  import { headingOf, hours } from './dates';
  import type { FoundResult } from './result.svelte';

  /** What parts the wall here: its value, where it lies where that is one folder, how many, and when. */
  interface Props {
    found: FoundResult;
    /** Index of the group. */
    group: number;
    stages: readonly Stage[];
  }
  const { found, group, stages }: Props = $props();
  /** Tiles that are looked at for the folder they share. */
  const LOOKED_AT = 40;

  const by = $derived(groupFieldOf(found.query));
  const one = $derived(found.wall.groups[group]!);
  const start = $derived(
    found.wall.groups.slice(0, group).reduce((sum, { count }) => sum + count, 0),
  );
  const words = $derived(
    one.key === null ? 'All together' : headingOf(by, one.key, one.label, stages),
  );
  const place = $derived.by(() => {
    const names = new Set(
      Array.from({ length: Math.min(one.count, LOOKED_AT) }, (_, step) =>
        found.store
          .at(start + step)
          ?.folder.split('/')
          .at(-1),
      ).filter(Boolean),
    );
    return names.size === 1 ? `${[...names][0]} · ` : '';
  });
</script>

<h2>{words}</h2>
<span class="pencil"
  >{place}{counted(one.count, 'item')}{one.key && by === 'taken'
    ? ` · ${hours(one.from, one.to)}`
    : ''}{one.key === null ? ` · ${formatBytes(found.wall.bytes)}` : ''}</span
>

<style>
  h2 {
    font-size: 16.5px;
  }
</style>
