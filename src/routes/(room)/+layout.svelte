<script lang="ts">
  import type { Snippet } from 'svelte';
  import Frame from '$lib/ui/shell/Frame.svelte';
  import type { LayoutData } from './$types';

  const { data, children }: { data: LayoutData; children: Snippet } = $props();
</script>

<Frame actor={data.actor}>{@render children()}</Frame>
