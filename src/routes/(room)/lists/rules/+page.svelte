<script lang="ts">
  import { can } from '#core/people/roles';
  import { FIELD_KEYS, FIELDS, type FieldKey } from '#core/records/fields';
  import { mayAllow, type HouseRule } from '#core/records/rules';
  import type { TermRules } from '#core/terms/rules';
  import { counted } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import { notReady } from '$lib/ui/lists/address';
  import ListPage from '$lib/ui/lists/ListPage.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const mayManage = $derived(can(data.actor.role, 'manage'));
  interface Line {
    field: FieldKey;
    required: boolean;
    allowed: string;
    like: string;
  }
  const linesOf = (rules: readonly HouseRule[]): Line[] =>
    rules.map((rule) => ({ ...rule, allowed: rule.allowed.join('; ') }));
  // What is being written stays while counts are loaded anew: only other rules begin anew.
  const held = $derived(JSON.stringify(data.rules));
  let lines = $derived<Line[]>(linesOf(JSON.parse(held) as HouseRule[]));
  const wish = $derived<HouseRule[]>(
    lines.map(({ field, required, allowed, like }) => ({
      field,
      required,
      like: like.trim(),
      allowed: allowed
        .split(';')
        .map((one) => one.trim())
        .filter(Boolean),
    })),
  );
  const isChanged = $derived(JSON.stringify(wish) !== JSON.stringify(data.rules));
  const free = $derived(FIELD_KEYS.filter((key) => !lines.some(({ field }) => field === key)));
  const change = (at: number, part: Partial<Line>): void =>
    void (lines = lines.map((line, index) => (index === at ? { ...line, ...part } : line)));

  async function setTerms(terms: TermRules): Promise<void> {
    try {
      await api.put('/api/terms/rules', terms);
      sayDone('It holds from now on.');
      await freshen('mindful:lists');
    } catch (error) {
      sayWrong(error);
    }
  }
  async function save(): Promise<void> {
    try {
      await api.put('/api/records/rules', { rules: wish, seen: data.rules });
      sayDone('The rules hold from now on; what is there is counted by them.');
      await freshen('mindful:card');
      await freshen('mindful:lists');
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<ListPage title="House rules" counts>
  {#snippet lead()}
    What a record must say before it is ready. The record card tells what is missing; the sentence
    finds
    <a href={notReady()}>what is not ready</a>.
  {/snippet}
  {#if lines.length === 0}<p class="none">
      No rules yet{mayManage ? ': choose a field that must say something.' : '.'}
    </p>{/if}
  <ul>
    {#each lines as { field, required, allowed, like }, at (field)}
      {@const { label } = FIELDS[field]}
      <li>
        <span class="name">{label}</span>
        <label
          ><input
            type="checkbox"
            disabled={!mayManage}
            checked={required}
            onchange={(event) => change(at, { required: event.currentTarget.checked })}
          /> required</label
        >
        {#if mayAllow(field)}<input
            class="field"
            aria-label="Values allowed of {label}"
            placeholder="any value, or several parted by semicolons"
            disabled={!mayManage}
            value={allowed}
            oninput={(event) => change(at, { allowed: event.currentTarget.value })}
          /><input
            class="field mono"
            aria-label="How {label} is written"
            placeholder="written like © #### *"
            title="# a digit, @ a letter, ? any character, * any characters"
            disabled={!mayManage}
            value={like}
            oninput={(event) => change(at, { like: event.currentTarget.value })}
          />{:else}<span class="pencil wide">any of its own values</span>{/if}
        {#if data.rules.some((one) => one.field === field)}
          <a href={notReady(label)}>{counted(data.broken[label] ?? 0, 'item')} not ready</a
          >{:else}<span class="pencil">not saved yet</span>{/if}
        {#if mayManage}<button
            class="link"
            type="button"
            aria-label="Without the rule for {label}"
            onclick={() => (lines = lines.filter((_, index) => index !== at))}>×</button
          >{/if}
      </li>
    {/each}
  </ul>
  {#if mayManage}
    <p class="more">
      <select
        class="field"
        aria-label="A rule for another field"
        value=""
        onchange={(event) => {
          const field = event.currentTarget.value as FieldKey;
          lines = [...lines, { field, required: true, allowed: '', like: '' }];
          event.currentTarget.value = '';
        }}
      >
        <option value="" disabled>a rule for …</option>
        {#each free as key (key)}<option value={key}>{FIELDS[key].label}</option>{/each}
      </select>
      <button class="button act" type="button" disabled={!isChanged} onclick={() => void save()}
        >Save the rules</button
      >
      {#if isChanged}<button
          class="link"
          type="button"
          onclick={() => (lines = linesOf(data.rules))}>As they were</button
        >{/if}
    </p>
  {/if}
  <h2>Terms</h2>
  <p class="rule">
    <label
      ><input
        type="checkbox"
        disabled={!mayManage}
        checked={data.terms.broader}
        onchange={(event) => void setTerms({ ...data.terms, broader: event.currentTarget.checked })}
      />
      a term that is given brings its broader terms along</label
    >
    <span class="pencil">they stand on the card beside it, and can be taken away again</span>
  </p>
  <p class="rule">
    <label
      ><input
        type="checkbox"
        disabled={!mayManage}
        checked={data.terms.hierarchy === 'written'}
        onchange={(event) =>
          void setTerms({
            ...data.terms,
            hierarchy: event.currentTarget.checked ? 'written' : 'removed',
          })}
      />
      files also say where terms stand, beside the flat keywords</label
    >
    <span class="pencil"
      >keywords schema of the MWG, in XMP; a file follows when its record is written next</span
    >
  </p>
</ListPage>

<style>
  li {
    display: grid;
    grid-template-columns: 190px 90px minmax(0, 1.4fr) minmax(0, 1fr) 140px 28px;
    gap: 14px;
    align-items: center;
    min-height: 44px;
  }
  li .wide {
    grid-column: span 2;
  }
  li label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  li .link {
    min-height: 28px;
    color: var(--pencil);
  }
  .rule {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
    margin: 6px 0;
  }
  .rule label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .more {
    display: grid;
    grid-template-columns: 200px auto auto 1fr;
    gap: 14px;
    align-items: center;
    margin-top: 14px;
  }
</style>
