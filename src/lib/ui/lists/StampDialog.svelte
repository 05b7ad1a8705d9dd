<script lang="ts">
  import type { StampEntry, StampLine, Way } from '#core/lists/entries';
  import { FIELD_KEYS, FIELDS, shapeOf, type FieldKey } from '#core/records/fields';
  import { writtenAs } from '#core/records/written';
  import { WAY_WORDS, waysOf } from '#core/stamps/stamp';
  import { page } from '$app/state';
  import { offeredStages, type Stage } from '#core/stages/stages';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';

  /** A stamp made or changed: a line for each field, with how its value meets what is there. */
  interface Props {
    id: string | null;
    seen: StampEntry;
    projects: readonly string[];
    onclose: () => void;
  }
  const { id, seen, projects, onclose }: Props = $props();
  interface Line {
    field: FieldKey;
    way: Way;
    text: string;
  }
  // svelte-ignore state_referenced_locally
  let { name, project } = $state({ name: seen.name, project: seen.project });
  // svelte-ignore state_referenced_locally
  let lines = $state<Line[]>(
    seen.lines.map(({ field, way, value }) => ({
      field: field as FieldKey,
      way,
      text: writtenAs(value),
    })),
  );
  const free = $derived(FIELD_KEYS.filter((key) => !lines.some(({ field }) => field === key)));
  const stages = $derived(offeredStages((page.data as { stages: Stage[] }).stages));
  const PIECES = [
    '{taken yyyy}',
    '{name}',
    '{original}',
    '{number}',
    '{creator}',
    '{camera}',
    '{title}',
  ];

  function add(field: FieldKey): void {
    lines.push({ field, way: waysOf(field)[0]!, text: field === 'rating' ? '0' : '' });
  }
  const valueOf = ({ field, text }: Line): StampLine['value'] => {
    const shape = shapeOf(FIELDS[field]);
    if (shape === 'number') return Number(text);
    if (shape !== 'list') return text;
    return text
      .split(';')
      .map((one) => one.trim())
      .filter(Boolean);
  };
  async function save(): Promise<void> {
    const entry: StampEntry = {
      name: name.trim(),
      project: project.trim(),
      lines: lines.map((line) => ({ field: line.field, way: line.way, value: valueOf(line) })),
    };
    const done = await act(id ? 'Stamp changed' : 'Stamp made', () =>
      id
        ? api.patch(`/api/lists/stamps/${id}`, { entry, seen })
        : api.post('/api/lists/stamps', { entry }),
    );
    if (done) onclose();
  }
  async function drop(): Promise<void> {
    const done = await act('Taken off the list', () => api.delete(`/api/lists/stamps/${id}`));
    if (done) onclose();
  }
</script>

<Dialog title={id ? `Stamp: ${seen.name}` : 'A new stamp'} wide {onclose}>
  <div class="names">
    <label
      ><span class="label">Name</span><input
        class="field"
        bind:value={name}
        maxlength="200"
      /></label
    >
    <label
      ><span class="label">Project or client</span><input
        class="field"
        list="stamp-projects"
        bind:value={project}
        maxlength="200"
      /></label
    >
    <datalist id="stamp-projects">
      {#each projects.filter(Boolean) as one (one)}<option value={one}></option>{/each}
    </datalist>
  </div>
  <ul>
    {#each lines as line, at (line.field)}
      {@const field = FIELDS[line.field]}
      <li>
        <span class="field-name">{field.label}</span>
        <select class="field" aria-label="How {field.label} is set" bind:value={line.way}>
          {#each waysOf(line.field) as way (way)}<option value={way}>{WAY_WORDS[way]}</option
            >{/each}
        </select>
        {#if line.field === 'rating'}
          <select class="field" aria-label={field.label} bind:value={line.text}>
            <option value="-1">rejected</option>
            {#each ['0', '1', '2', '3', '4', '5'] as pips (pips)}<option value={pips}
                >{pips} pips</option
              >{/each}
          </select>
        {:else if line.field === 'stage'}
          <select class="field" aria-label={field.label} bind:value={line.text}>
            <option value="">none</option>
            {#each stages as stage (stage.id)}<option value={stage.name}>{stage.name}</option
              >{/each}
          </select>
        {:else if field.values}
          <select class="field" aria-label={field.label} bind:value={line.text}>
            <option value="">none</option>
            {#each field.values as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
          </select>
        {:else if field.type === 'long-text'}
          <textarea class="field" rows="2" aria-label={field.label} bind:value={line.text}
          ></textarea>
        {:else}
          <input
            class="field"
            aria-label={field.label}
            placeholder={shapeOf(field) === 'list' ? 'several parted by semicolons' : ''}
            bind:value={line.text}
          />
        {/if}
        <button
          class="link"
          type="button"
          aria-label="Without {field.label}"
          onclick={() => lines.splice(at, 1)}>×</button
        >
      </li>
    {:else}<li class="pencil none">It sets nothing yet.</li>{/each}
  </ul>
  <p class="more">
    <select
      class="field"
      aria-label="Set another field"
      value=""
      onchange={(event) => {
        add(event.currentTarget.value as FieldKey);
        event.currentTarget.value = '';
      }}
    >
      <option value="" disabled>set another field …</option>
      {#each free as key (key)}<option value={key}>{FIELDS[key].label}</option>{/each}
    </select>
    <span class="pencil"
      >Pieces: <span class="mono">{PIECES.join(' ')}</span>. A value whose piece an item does not
      say is left out for it.</span
    >
  </p>
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={name.trim() === '' || lines.length === 0}
      onclick={() => void save()}>{id ? 'Save the stamp' : 'Make the stamp'}</button
    >
    {#if id}<button class="button" type="button" onclick={() => void drop()}
        >Take it off the list</button
      >{/if}
  {/snippet}
</Dialog>

<style>
  .names {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 16px;
    margin-bottom: 14px;
  }
  ul {
    max-height: 320px;
    overflow: auto;
    border-top: 1px solid var(--rule);
  }
  li {
    display: grid;
    grid-template-columns: 170px 110px minmax(0, 1fr) 28px;
    gap: 10px;
    align-items: center;
    padding: 5px 0;
    border-bottom: 1px solid color-mix(in srgb, var(--rule) 60%, transparent);
  }
  li.none {
    display: block;
  }
  li .link {
    min-height: 28px;
    color: var(--pencil);
  }
  .more {
    display: grid;
    grid-template-columns: 200px minmax(0, 1fr);
    gap: 14px;
    align-items: center;
    margin-top: 12px;
  }
</style>
