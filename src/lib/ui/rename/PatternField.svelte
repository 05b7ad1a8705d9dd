<script lang="ts">
  interface Props {
    value: string;
    label: string;
    folders?: boolean;
    onchange: (value: string) => void;
  }
  const { value, label, folders = false, onchange }: Props = $props();
  let input = $state<HTMLInputElement>();
  const PIECES: [string, string][] = [
    ['taken MMdd', '{taken MMdd}'],
    ['taken yyyy-MM-dd', '{taken yyyy-MM-dd}'],
    ['counter by day', '{counter 0001 by day}'],
    ['counter', '{counter 0001}'],
    ['name', '{name}'],
    ['original name', '{original}'],
    ['camera', '{camera}'],
    ['creator', '{creator}'],
    ['title', '{title}'],
  ];
  const pieces = $derived(
    folders
      ? PIECES.filter(([name]) => !/counter|name|title/.test(name)).concat([
          ['year', '{taken yyyy}'],
        ])
      : PIECES,
  );

  function insert(text: string): void {
    const at = input?.selectionStart ?? value.length;
    const to = input?.selectionEnd ?? at;
    onchange(value.slice(0, at) + text + value.slice(to));
    queueMicrotask(() => {
      input?.focus();
      input?.setSelectionRange(at + text.length, at + text.length);
    });
  }
</script>

<div class="pattern">
  <input
    bind:this={input}
    class="field mono"
    aria-label={label}
    {value}
    oninput={(event) => onchange(event.currentTarget.value)}
    spellcheck="false"
    autocomplete="off"
  />
  <p class="pieces" role="group" aria-label="Pieces for {label}">
    {#each pieces as [name, text] (name)}<button type="button" onclick={() => insert(text)}
        >{name}</button
      >{/each}
  </p>
</div>

<style>
  .pieces {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    margin-top: 5px;
  }
  button {
    padding: 0 6px;
    border: 1px dashed var(--pencil);
    border-radius: 3px;
    background: var(--paper);
    font: 11.5px/1.6 var(--mono);
  }
  button:hover {
    border-style: solid;
    background: var(--wash);
  }
  input {
    font-size: 13px;
  }
</style>
