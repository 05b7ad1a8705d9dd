<script lang="ts">
  import type { Snippet } from 'svelte';
  import Notices from '$lib/ui/common/Notices.svelte';
  import '$lib/ui/tokens.css';

  const { children }: { children: Snippet } = $props();

  // From now on the page answers to keys; whoever drives it can wait for that.
  $effect(() => {
    document.documentElement.dataset['awake'] = 'yes';
  });
</script>

{@render children()}
<Notices />
