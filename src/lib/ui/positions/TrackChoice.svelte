<script module lang="ts">
  import type { PositionWish } from '#core/positions/wish';

  /** A track, and how clocks and gaps are met. */
  export type TrackWish = Omit<Extract<PositionWish, { act: 'track' }>, 'act'>;
</script>

<script lang="ts">
  import { untrack } from 'svelte';
  import { USUAL_LIMITS, type KeptTrack } from '#core/positions/track';
  import { amountSeconds, parseAmount } from '#core/records/dates';
  import { formatOffset, parseOffset } from '#core/records/taken';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';

  interface Props {
    /** Null while it is not said whole. */
    onchange: (wish: TrackWish | null) => void;
  }
  const { onchange }: Props = $props();
  let tracks = $state.raw<KeptTrack[]>([]);
  let chosen = $state('');
  let clock = $state('0s');
  let zone = $state(formatOffset(-new Date().getTimezoneOffset()));
  let gap = $state(`${USUAL_LIMITS.gap / 60}m`);
  let beyond = $state(`${USUAL_LIMITS.beyond / 60}m`);
  let over = $state(false);
  let wrong = $state('');
  let file = $state<HTMLInputElement>();
  const track = $derived(tracks.find(({ id }) => id === chosen));
  const LAST = 'mindful-track-zone';

  $effect(() => {
    zone = localStorage.getItem(LAST) ?? untrack(() => zone);
    api
      .get('/api/positions/tracks')
      .then((found) => {
        tracks = found;
        chosen ||= found[0]?.id ?? '';
      })
      .catch((error: Error) => (wrong = error.message));
  });

  const secondsOf = (text: string): number | null => {
    const amount = parseAmount(text);
    return amount && amountSeconds(amount);
  };
  $effect(() => {
    const parts = [secondsOf(clock), parseOffset(zone), secondsOf(gap), secondsOf(beyond)];
    const [add, offset, widest, longest] = parts;
    const isSaid =
      chosen !== '' && parts.every((part) => part !== null) && widest! > 0 && longest! >= 0;
    const wish = isSaid
      ? { track: chosen, clock: add!, offset: offset!, gap: widest!, beyond: longest!, over }
      : null;
    if (parseOffset(zone) !== null) localStorage.setItem(LAST, zone);
    untrack(() => onchange(wish));
  });

  async function bring(): Promise<void> {
    const [picked] = file?.files ?? [];
    if (!picked) return;
    try {
      const kept = await api.post('/api/positions/tracks', {
        name: picked.name,
        text: await picked.text(),
      });
      tracks = [kept, ...tracks.filter(({ id }) => id !== kept.id)];
      chosen = kept.id;
      wrong =
        kept.left > 0
          ? `${counted(kept.left, 'point')} without a time or a place were left out.`
          : '';
    } catch (error) {
      wrong = (error as Error).message;
    }
    file!.value = '';
  }
  async function forget(id: string): Promise<void> {
    try {
      await api.delete(`/api/positions/tracks/${id}`);
      tracks = tracks.filter((one) => one.id !== id);
      chosen = tracks[0]?.id ?? '';
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
  const when = (ms: number): string => new Date(ms).toISOString().slice(0, 16).replace('T', ' ');
</script>

<select class="field" bind:value={chosen} aria-label="Track">
  {#if tracks.length === 0}<option value="" disabled>no track yet</option>{/if}
  {#each tracks as one (one.id)}<option value={one.id}>{one.name} · {when(one.from)}</option>{/each}
</select>
<button class="button" type="button" onclick={() => file?.click()}>Bring a GPX file …</button>
<input
  bind:this={file}
  class="unseen"
  type="file"
  accept=".gpx,application/gpx+xml"
  aria-label="GPX file"
  tabindex="-1"
  onchange={() => void bring()}
/>
<label
  >add to clocks <input
    class="field few"
    bind:value={clock}
    aria-label="Added to their clocks"
  /></label
>
<label
  >zone <input
    class="field few"
    bind:value={zone}
    aria-label="Zone of clocks that do not say"
  /></label
>
<label>gaps up to <input class="field few" bind:value={gap} aria-label="Longest gap" /></label>
<label
  >ends hold <input
    class="field few"
    bind:value={beyond}
    aria-label="How long its ends hold"
  /></label
>
<label><input type="checkbox" bind:checked={over} /> also where there is a position</label>
{#if track}<span class="pencil"
    >{counted(track.points, 'point')} in {counted(track.stretches, 'stretch', 'stretches')}, {when(
      track.from,
    )} to {when(track.to)} UTC</span
  ><button class="link" type="button" onclick={() => void forget(track.id)}
    >Forget this track</button
  >{/if}
{#if wrong}<span class="caution" role="alert">{wrong}</span>{/if}

<style>
  label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .field {
    width: 240px;
  }
  .few {
    width: 76px;
  }
  .unseen {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
</style>
