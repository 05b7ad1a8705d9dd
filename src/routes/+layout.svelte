<script lang="ts">
  import type { Snippet } from 'svelte';
  import Notices from '$lib/ui/common/Notices.svelte';
  import '$lib/ui/tokens.css';

  const { children }: { children: Snippet } = $props();
</script>

{@render children()}
<Notices />
