<script lang="ts">
  import type { ContributorEntry } from '#core/lists/entries';
  import { can } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { creditedTo } from '$lib/ui/lists/address';
  import ContributorDialog from '$lib/ui/lists/ContributorDialog.svelte';
  import ListPage from '$lib/ui/lists/ListPage.svelte';
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

  function open(one: (typeof data.contributors)[number]): void {
    const { id, items, ...entry } = one;
    void items;
    opened = { id, entry };
  }
</script>

<ListPage title="Contributors" counts>
  {#snippet lead()}
    People and agencies who are credited. Correct a credit here once: every record and file that
    says the old one follows, in one step the ledger takes back.
  {/snippet}
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
</ListPage>

{#if opened}
  <ContributorDialog
    id={opened.id}
    seen={opened.entry}
    others={data.contributors.filter(({ id }) => id !== opened?.id)}
    onclose={() => (opened = null)}
  />
{/if}

<style>
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
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 110px 140px;
    gap: 14px;
    align-items: baseline;
    min-height: 34px;
    padding-top: 4px;
  }
  li .link {
    min-height: 24px;
    text-align: right;
  }
</style>
