<script lang="ts">
  /** Whoever else looks there knows files by the names and folders they have. */
  const { places }: { places: string[] } = $props();
</script>

{#if places.length}
  <p class="caution">
    Other programs look in {places.map((name) => `“${name}”`).join(', ')}: they will not find these
    files where they knew them.
  </p>
{/if}
