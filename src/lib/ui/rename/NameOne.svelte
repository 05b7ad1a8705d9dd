<script lang="ts">
  import { splitName } from '#core/naming/names';
  import { api } from '../common/api';
  import { sayWrong } from '../common/notices.svelte';
  import { sayUndoable } from '../common/undoing';

  /** A file's name, which is written over where it stands; its extension stays unless it is written over too. */
  interface Props {
    id: string;
    name: string;
    canRename: boolean;
    onrenamed: () => void;
  }
  const { id, name, canRename, onrenamed }: Props = $props();
  let writes = $state(false);
  let text = $state('');

  export function write(): void {
    if (!canRename) return;
    text = name;
    writes = true;
  }
  /** What is written over at first: all but the extension. */
  function begin(input: HTMLInputElement): void {
    input.focus();
    input.setSelectionRange(0, splitName(name).stem.length);
  }
  async function give(): Promise<void> {
    if (!writes) return;
    writes = false;
    if (text === name) return;
    try {
      const { operation } = await api.post('/api/rename/one', {
        itemId: id,
        name: text,
        before: name,
      });
      sayUndoable(`“${name}” is called “${text}” now.`, operation, onrenamed);
      onrenamed();
    } catch (error) {
      sayWrong(error);
      writes = true;
    }
  }
  function keys(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === 'Enter') void give();
    else if (event.key === 'Escape') writes = false;
    else return;
    event.preventDefault();
  }
</script>

{#if writes}
  <input
    class="field mono"
    aria-label="Name of the file"
    bind:value={text}
    use:begin
    onkeydown={keys}
    onblur={() => (writes = false)}
    spellcheck="false"
  />
{:else if canRename}
  <button class="name mono" type="button" title="F2 writes another name" onclick={write}
    >{name}</button
  >
{:else}{name}{/if}

<style>
  .name {
    min-height: 24px;
    padding: 0;
    border: 0;
    background: none;
    color: inherit;
    font-size: inherit;
    text-align: left;
    overflow-wrap: anywhere;
  }
  .name:hover {
    text-decoration: underline dotted;
  }
  .field {
    padding: 2px 6px;
    font-size: 12.5px;
  }
</style>
