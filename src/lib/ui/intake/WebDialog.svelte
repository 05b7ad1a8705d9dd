<script lang="ts">
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';

  interface Picture {
    address: string;
    alt: string;
  }
  interface Props {
    /** Where the simulated site of the demo lies; empty without it. */
    example: string;
    onlook: (parcel: string) => void;
    onclose: () => void;
  }
  const { example, onlook, onclose }: Props = $props();
  let address = $state('');
  let pictures = $state<Picture[]>([]);
  let out = $state<Record<string, boolean>>({});
  let parcel = $state('');
  let failed = $state<{ address: string; reason: string }[]>([]);
  let left = $state(0);
  let wrong = $state('');
  let busy = $state(false);
  const chosen = $derived(pictures.filter((one) => !out[one.address]));

  async function run(work: () => Promise<void>): Promise<void> {
    busy = true;
    wrong = '';
    try {
      await work();
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      busy = false;
    }
  }
  const list = (): Promise<void> =>
    run(async () => {
      pictures = [];
      const found = await api.post('/api/intake/web', {
        address,
      });
      address = found.address;
      pictures = found.pictures;
      out = {};
    });
  const fetchThem = (): Promise<void> =>
    run(async () => {
      const begun = await api.put('/api/intake/web', {
        title: new URL(address).host,
        addresses: chosen.map((one) => one.address),
      });
      parcel = begun.parcel;
      for (left = chosen.length; left > 0;) {
        await new Promise((resolve) => setTimeout(resolve, 500));
        const state = await api.get('/api/intake/web', { parcel });
        // A parcel that is gone has nothing left to fetch.
        left = state?.addresses.length ?? 0;
        failed = state?.failed ?? [];
      }
      if (failed.length === 0) onlook(parcel);
    });
</script>

<Dialog title="A web address" wide {onclose}>
  <form onsubmit={(event) => (event.preventDefault(), void list())}>
    <input
      class="field mono"
      bind:value={address}
      aria-label="Web address"
      placeholder="https://"
      disabled={parcel !== ''}
    />
    <button class="button" type="submit" disabled={busy || !address.trim() || parcel !== ''}
      >List its pictures</button
    >
  </form>
  {#if example && !address}<p class="pencil">
      The demo has a small site of its own:
      <button class="link mono" type="button" onclick={() => (address = example)}>{example}</button>
    </p>{/if}
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#if parcel}
    <p aria-live="polite">
      {left > 0
        ? `${counted(left, 'file')} still to come.`
        : 'Everything that could be had is here.'}
    </p>
    <ul>
      {#each failed as one (one.address)}<li>
          <span class="mono">{one.address}</span> <span class="wrong">{one.reason}</span>
        </li>{/each}
    </ul>
  {:else if pictures.length}
    <p class="pencil">
      {counted(pictures.length, 'picture')}.
      <button class="link" type="button" onclick={() => (out = {})}>all</button> ·
      <button
        class="link"
        type="button"
        onclick={() => (out = Object.fromEntries(pictures.map((one) => [one.address, true])))}
        >none</button
      >
    </p>
    <ul>
      {#each pictures as one (one.address)}
        <li>
          <label
            ><input
              type="checkbox"
              checked={!out[one.address]}
              onchange={(event) => (out[one.address] = !event.currentTarget.checked)}
            /> <span class="mono">{one.address}</span> <span class="pencil">{one.alt}</span></label
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#snippet foot()}
    {#if parcel && left === 0}<button
        class="button act"
        type="button"
        onclick={() => onlook(parcel)}>Look through them</button
      >{:else}<button
        class="button act"
        type="button"
        disabled={busy || chosen.length === 0}
        onclick={() => void fetchThem()}>Fetch {counted(chosen.length, 'picture')}</button
      >{/if}
  {/snippet}
</Dialog>

<style>
  form {
    display: flex;
    gap: 8px;
  }
  form input {
    flex: 1;
  }
  p {
    margin-top: 8px;
  }
  li {
    padding: 4px 0;
    border-top: 1px solid var(--rule);
    overflow-wrap: anywhere;
  }
</style>
