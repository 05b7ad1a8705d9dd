<script lang="ts">
  interface Props {
    /** What the rows below are; a line alone where nothing is said. */
    words?: string;
  }
  const { words = '' }: Props = $props();
</script>

<p>{words}</p>

<style>
  p {
    margin-top: 6px;
    border-top: 1px solid var(--rule);
    padding: 6px 14px 2px;
    color: var(--pencil);
    font-size: 11.5px;
  }
</style>
