<script lang="ts">
  interface Props {
    value: string;
    label: string;
    placeholder: string;
  }
  let { value = $bindable(), label, placeholder }: Props = $props();
</script>

<div>
  <input class="field" bind:value aria-label={label} {placeholder} />
</div>

<style>
  div {
    padding: 4px 12px 8px;
  }
  input {
    width: 100%;
  }
</style>
