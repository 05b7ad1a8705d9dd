<script lang="ts">
  import type { ContributorEntry } from '#core/lists/entries';
  import { can } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { creditedTo } from '$lib/ui/lists/address';
  import ContributorDialog from '$lib/ui/lists/ContributorDialog.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const mayManage = $derived(can(data.actor.role, 'manage'));
  const BLANK: ContributorEntry = {
    name: '',
    kind: 'person',
    also: [],
    creditLine: '',
    copyrightNotice: '',
    usageTerms: '',
    email: '',
    phone: '',
    web: '',
    note: '',
    retired: false,
  };
  let opened = $state.raw<{ id: string | null; entry: ContributorEntry } | null>(null);

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:lists'));
    return hear(({ about }) => {
      if (about === 'lists' || about === 'items' || about === 'again') soon();
    });
  });
  function open(one: (typeof data.contributors)[number]): void {
    const { id, items, ...entry } = one;
    void items;
    opened = { id, entry };
  }
</script>

<svelte:head><title>Contributors · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>Contributors</h1>
  <p class="pencil lead">
    People and agencies who are credited. Correct a credit here once: every record and file that
    says the old one follows, in one step the ledger takes back.
  </p>
  {#if data.contributors.length > 0}
    <div class="scroll">
      <table>
        <thead>
          <tr><th>Name</th><th>Credit line</th><th>Copyright notice</th><th>Credited</th></tr>
        </thead>
        <tbody>
          {#each data.contributors as one (one.id)}
            <tr class:retired={one.retired}>
              <td>
                {#if mayManage}<button class="name" type="button" onclick={() => open(one)}
                    >{one.name}</button
                  >{:else}<span class="name">{one.name}</span>{/if}
                <span class="pencil"
                  >{one.kind === 'agency' ? 'agency' : ''}{one.retired ? ' retired' : ''}{one.also
                    .length > 0
                    ? ` also ${one.also.join(', ')}`
                    : ''}</span
                >
              </td>
              <td>{one.creditLine}</td>
              <td>{one.copyrightNotice}</td>
              <td><a href={creditedTo([one.name, ...one.also])}>{counted(one.items, 'item')}</a></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  {#if mayManage}
    <p class="new">
      <button class="button" type="button" onclick={() => (opened = { id: null, entry: BLANK })}
        >Put someone on the list …</button
      >
    </p>
  {/if}
  {#if data.unlisted.length > 0}
    <h2>Credited, and not on the list</h2>
    <ul>
      {#each data.unlisted as { name, items } (name)}
        <li>
          <span class="name">{name}</span>
          <a href={creditedTo([name])}>{counted(items, 'item')}</a>
          {#if mayManage}<button
              class="link"
              type="button"
              aria-label="Put on the list … {name}"
              onclick={() => (opened = { id: null, entry: { ...BLANK, name } })}
              >Put on the list …</button
            >{/if}
        </li>
      {/each}
    </ul>
    {#if data.unlisted.length === 200}<p class="pencil">
        The 200 most used are shown; the Census has all creators.
      </p>{/if}
  {/if}
</div>

{#if opened}
  <ContributorDialog
    id={opened.id}
    seen={opened.entry}
    others={data.contributors.filter(({ id }) => id !== opened?.id)}
    onclose={() => (opened = null)}
  />
{/if}

<style>
  .page {
    height: 100%;
    padding: 20px 24px;
    overflow: auto;
  }
  h1 {
    font-size: 28px;
  }
  h2 {
    margin: 28px 0 4px;
  }
  .lead {
    max-width: 640px;
    margin: 6px 0 14px;
  }
  .scroll {
    max-width: 1180px;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    color: var(--pencil);
    font-size: 11.5px;
    text-align: left;
  }
  td {
    padding: 6px 16px 6px 0;
    border-top: 1px solid var(--rule);
    vertical-align: baseline;
  }
  .retired td {
    color: var(--pencil);
  }
  .name {
    min-height: 26px;
    border: 0;
    padding: 0;
    background: none;
    font: 16.5px var(--book);
    text-align: left;
  }
  button.name:hover {
    color: var(--verdigris);
  }
  .new {
    margin-top: 14px;
  }
  ul {
    max-width: 640px;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 110px 140px;
    gap: 14px;
    align-items: baseline;
    min-height: 34px;
    padding-top: 4px;
    border-top: 1px solid var(--rule);
  }
  li .link {
    min-height: 24px;
    text-align: right;
  }
</style>
