<script lang="ts">
  import { colourFrom } from '#core/colour/palette';
  import type { Field } from '#core/fields/field';
  import { conditionAt, textTests, withCondition } from '#core/query/edit';
  import { TYPES, type Test } from '#core/fields/types';
  import type { Query } from '#core/query/tree';

  interface Props {
    query: Query;
    at: number;
    field: Field;
    onchange: (query: Query) => void;
  }
  const { query, at, field, onchange }: Props = $props();
  const now = $derived(conditionAt(query, at, field.key));
  const tests = $derived(textTests(field));
  // svelte-ignore state_referenced_locally
  let test = $state<Test>(
    now && tests.includes(now.test)
      ? now.test
      : tests.includes('contains')
        ? 'contains'
        : TYPES[field.type].tests[0]!,
  );
  // svelte-ignore state_referenced_locally
  let text = $state(
    now && now.test !== 'has' ? now.values.join(field.type === 'position' ? ', ' : ' ') : '',
  );
  let wrong = $state('');
  const LABELS: Partial<Record<Test, string>> = {
    contains: 'containing',
    begins: 'beginning',
    is: 'exactly',
  };

  function accept(): void {
    const value = text.trim();
    if (field.type === 'position') {
      const numbers = value.split(/[\s,;]+/).map(Number);
      if (numbers.length !== 3 || !numbers.every(Number.isFinite))
        return void (wrong = 'Write latitude, longitude and kilometres: 51.2, 1.4, 5.');
      return onchange(
        withCondition(query, at, { field: field.key, test: 'near', values: numbers }),
      );
    }
    if (field.type === 'colour') {
      const colour = colourFrom(value);
      if (!colour) return void (wrong = 'Write a colour: #a63, #aa6633 or a name like red.');
      return onchange(
        withCondition(query, at, { field: field.key, test: 'near', values: [colour] }),
      );
    }
    onchange(withCondition(query, at, { field: field.key, test, values: value ? [value] : [] }));
  }
  const PLACEHOLDERS: Record<string, string> = {
    words: 'words in names, texts, terms',
    position: '51.2, 1.4, 5 (km)',
    number: '2026.014.0237',
    colours: '#a63, or a name',
  };
</script>

<form onsubmit={(event) => (event.preventDefault(), accept())}>
  {#if tests.length > 1}
    <select bind:value={test} aria-label="How">
      {#each tests as one (one)}<option value={one}>{LABELS[one]}</option>{/each}
    </select>
  {/if}
  {#if field.type !== 'yes-no'}
    <input
      class="field"
      bind:value={text}
      aria-label={field.type === 'words' ? 'Words' : field.label}
      placeholder={PLACEHOLDERS[field.key] ?? 'text'}
    />
    <button class="button act" type="submit">Set</button>
  {/if}
</form>
{#if wrong}<p class="wrong note" role="alert">{wrong}</p>{/if}

<style>
  form {
    display: flex;
    gap: 8px;
    padding: 4px 14px 8px;
  }
  .field {
    min-width: 0;
    flex: 1;
  }
  .note {
    padding: 4px 14px;
  }
</style>
