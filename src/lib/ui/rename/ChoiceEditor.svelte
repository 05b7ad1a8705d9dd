<script lang="ts">
  import { NUMERALS, SCOPES, type Change, type Alternative, type Source } from '#core/naming/piece';
  import { CHANGE_CHOICES, sourceKey, type SOURCE_GROUPS } from '#core/naming/words';
  import ChangeEditor from './ChangeEditor.svelte';

  /** One way to fill a piece: where it comes from, and what is done to it. */
  interface Props {
    choice: Alternative;
    groups: typeof SOURCE_GROUPS;
    /** It is taken where those before say nothing. */
    isElse: boolean;
    onchange: (choice: Alternative) => void;
    onremove?: (() => void) | undefined;
  }
  const { choice, groups, isElse, onchange, onremove }: Props = $props();
  const source = $derived(choice.source);
  const put = (part: object): void =>
    onchange({ ...choice, source: { ...source, ...part } as Source });
  function choose(key: string): void {
    const made = groups.flatMap(({ choices }) => choices).find((one) => one.key === key);
    if (made) onchange({ ...choice, source: made.make() });
  }
  const change = (at: number, next: Change | null): void =>
    onchange({
      ...choice,
      changes: next
        ? choice.changes.map((one, index) => (index === at ? next : one))
        : choice.changes.toSpliced(at, 1),
    });
  function add(does: string): void {
    const made = CHANGE_CHOICES.find((one) => one.does === does);
    if (made) onchange({ ...choice, changes: [...choice.changes, made.make()] });
  }
  const number = (event: Event): number =>
    Math.max(0, Math.trunc(Number((event.currentTarget as HTMLInputElement).value) || 0));
</script>

<div class="way">
  <span class="pencil">{isElse ? 'else' : 'from'}</span>
  <select
    aria-label={isElse ? 'Else from' : 'Filled from'}
    value={sourceKey(source)}
    onchange={(event) => choose(event.currentTarget.value)}
  >
    {#each groups as { label, choices } (label)}
      <optgroup {label}>
        {#each choices as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
      </optgroup>
    {/each}
  </select>
  {#if source.of === 'date'}
    <label
      >written <input
        class="field mono"
        value={source.format}
        size="14"
        onchange={(event) => put({ format: event.currentTarget.value || 'yyyy-MM-dd' })}
      /></label
    >
    <label
      >in the zone <input
        class="field"
        value={source.zone ?? ''}
        size="14"
        placeholder={source.date === 'taken' ? 'of its clock' : 'of the house'}
        onchange={(event) => put({ zone: event.currentTarget.value.trim() || null })}
      /></label
    >
    {#if source.date === 'today'}<span class="caution">the day you rename, not the day taken</span
      >{/if}
  {:else if source.of === 'counter'}
    <label
      >from <input
        class="field mono"
        value={String(source.start).padStart(source.width, '0')}
        size="6"
        inputmode="numeric"
        onchange={(event) => {
          const digits = event.currentTarget.value.replace(/\D/g, '').slice(0, 8) || '1';
          put({ start: Number(digits), width: digits.length });
        }}
      /></label
    >
    <label
      >by <input
        class="field mono"
        type="number"
        min="1"
        value={source.step}
        onchange={(event) => put({ step: number(event) || 1 })}
      /></label
    >
    <label
      >as <select
        value={source.numerals}
        onchange={(event) => put({ numerals: event.currentTarget.value })}
        >{#each NUMERALS as one (one)}<option>{one}</option>{/each}</select
      ></label
    >
    <label
      >anew for <select
        value={source.named === null ? source.scope : 'named'}
        onchange={({ currentTarget: { value } }) =>
          value === 'named'
            ? put({ scope: 'all', named: 'my counter' })
            : put({ scope: value, named: null })}
        >{#each SCOPES as one (one)}<option value={one}
            >{one === 'all' ? 'nothing: it runs through' : `each ${one}`}</option
          >{/each}<option value="named">nothing: it goes on next time</option></select
      ></label
    >
    {#if source.named !== null}<label
        >called <input
          class="field"
          value={source.named}
          size="12"
          onchange={(event) => put({ named: event.currentTarget.value.trim() || 'my counter' })}
        /></label
      >{/if}
  {:else if source.of === 'folder'}
    <label
      >level <select
        value={String(source.level)}
        onchange={(event) => put({ level: Number(event.currentTarget.value) })}
        ><option value="-1">the one it lies in</option><option value="-2">the one above</option
        >{#each [1, 2, 3, 4] as level (level)}<option value={String(level)}
            >{level} from the place</option
          >{/each}</select
      ></label
    >
  {:else if source.of === 'term'}
    <label
      >the term <input
        class="field"
        value={source.under}
        size="16"
        onchange={(event) => put({ under: event.currentTarget.value.trim() || source.under })}
      /></label
    >
  {:else if source.of === 'text'}
    <input
      class="field mono"
      aria-label="Text"
      value={source.text}
      size="16"
      onchange={(event) => put({ text: event.currentTarget.value })}
    />
  {/if}
  {#each choice.changes as one, at (at)}
    <ChangeEditor change={one} onchange={(next) => change(at, next)} />
  {/each}
  <select
    aria-label="And then"
    value=""
    onchange={(event) => (add(event.currentTarget.value), (event.currentTarget.value = ''))}
  >
    <option value="">and then …</option>
    {#each CHANGE_CHOICES as one (one.does)}<option value={one.does}>{one.label}</option>{/each}
  </select>
  {#if onremove}<button class="link" type="button" onclick={onremove}>without this</button>{/if}
</div>

<style>
  .way {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 10px;
    align-items: center;
  }
  .way :global(label) {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    color: var(--pencil);
  }
  .way :global(.field) {
    width: auto;
    padding: 2px 6px;
    color: var(--ink);
  }
  .way :global(input[type='number']) {
    width: 58px;
  }
  .way :global(select) {
    max-width: 210px;
    padding: 2px 4px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--card);
    color: var(--ink);
  }
</style>
