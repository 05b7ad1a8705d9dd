<script lang="ts">
  import type { Film } from '#core/footage/film';
  import { groundsOf, proposals, WISHES, type Ground, type Proposal } from '#core/footage/propose';
  import { frameWords, lengthWords, type Counting } from '#core/footage/span';
  import { counted } from '#core/text/quantities';

  /** Spans that could be kept, by what the clip itself tells: looked at one by one, chosen, kept. */
  interface Props {
    film: Film | null;
    times: Float64Array | null;
    count: number;
    counting: Counting;
    /** What is chosen now, drawn over the clip. */
    onshow: (proposed: readonly Proposal[]) => void;
    onseek: (frame: number) => void;
    onkeep: (proposed: readonly Proposal[]) => void;
    onclose: () => void;
  }
  const props: Props = $props();
  const { film, times, count, counting } = $derived(props);

  const NAMES: Record<Ground, string> = {
    scenes: 'Scenes',
    heard: 'What is heard',
    loud: 'What is loud',
    black: 'Between black',
    chapters: 'Chapters',
    subtitles: 'Subtitles',
  };
  const grounds = $derived(film ? groundsOf(film) : []);
  let wished = $state<Ground | null>(null);
  const ground = $derived(wished && grounds.includes(wished) ? wished : (grounds[0] ?? null));
  let levels = $state({ heard: WISHES.heard.level, loud: WISHES.loud.level });
  let least = $state(0.5);
  const all = $derived(
    film && ground
      ? proposals(
          film,
          {
            ground,
            level: ground === 'heard' || ground === 'loud' ? levels[ground] : 0,
            least: ground === 'chapters' || ground === 'subtitles' ? 0 : least,
          },
          times,
          { rate: counting.rate, count },
        )
      : [],
  );
  /** Those that are left out, by where they begin. */
  let without = $state.raw<ReadonlySet<number>>(new Set());
  let at = $state(0);
  const chosen = $derived(all.filter(({ from }) => !without.has(from)));
  let list = $state<HTMLElement>();

  $effect(() => {
    void all;
    at = 0;
    without = new Set();
  });
  $effect(() => props.onshow(chosen));
  $effect(() => list?.children[at]?.scrollIntoView({ block: 'nearest' }));

  function turn(from: number): void {
    without = new Set(
      without.has(from) ? [...without].filter((one) => one !== from) : [...without, from],
    );
  }
  function go(to: number): void {
    at = Math.min(Math.max(to, 0), all.length - 1);
    const one = all[at];
    if (one) props.onseek(one.from);
  }
  /** What the panel does with a key of the page. @returns whether it did */
  export function press({ key }: KeyboardEvent): boolean {
    const own = all[at];
    if (key === 'ArrowDown') go(at + 1);
    else if (key === 'ArrowUp') go(at - 1);
    else if (key.toLowerCase() === 'x' && own) turn(own.from);
    else if (key === 'Enter') keep();
    else if (key === 'Escape') props.onclose();
    else return false;
    return true;
  }
  const keep = (): void => {
    if (chosen.length > 0) props.onkeep(chosen);
  };
</script>

<div class="propose" aria-label="Proposed spans">
  {#if ground === null}
    <p class="empty pencil">
      {film
        ? 'Nothing in this clip tells where a span could begin: no cut, no sound, no black, no chapter.'
        : 'The clip is being read.'}
    </p>
  {:else}
    <div class="wish">
      <label
        >by <select
          value={ground}
          onchange={(event) => (wished = event.currentTarget.value as Ground)}
        >
          {#each grounds as one (one)}<option value={one}>{NAMES[one]}</option>{/each}
        </select></label
      >
      {#if ground === 'heard' || ground === 'loud'}
        <label
          >louder than −{levels[ground]} dB
          <input type="range" min="5" max="70" bind:value={levels[ground]} /></label
        >
      {/if}
      {#if ground !== 'chapters' && ground !== 'subtitles'}
        <label
          >at least {least} s
          <input type="range" min="0" max="10" step="0.5" bind:value={least} /></label
        >
      {/if}
    </div>
    <ol bind:this={list}>
      {#each all as one, index (one.from)}
        <li class:at={index === at} class:out={without.has(one.from)}>
          <input
            type="checkbox"
            checked={!without.has(one.from)}
            aria-label="Keep {frameWords(counting, one.from)}"
            onchange={() => turn(one.from)}
          />
          <button type="button" tabindex="-1" onclick={() => go(index)}>
            {#if one.title}<strong>{one.title}</strong>{/if}
            <span class="mono pencil"
              >{frameWords(counting, one.from)} · {lengthWords(
                one.to - one.from,
                counting.rate,
              )}</span
            >
          </button>
        </li>
      {/each}
    </ol>
    {#if all.length === 0}<p class="empty pencil">Nothing is so long, or so loud.</p>{/if}
  {/if}
  <footer>
    <button class="button act" type="button" disabled={chosen.length === 0} onclick={keep}
      >Keep {counted(chosen.length, 'span')}</button
    >
    <button class="link" type="button" onclick={props.onclose}>Leave it <kbd>Esc</kbd></button>
    <span class="pencil"><kbd>X</kbd> leave one out</span>
  </footer>
</div>

<style>
  .propose {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto auto;
    min-height: 0;
  }
  .wish {
    display: grid;
    gap: 6px;
    padding: 10px 16px;
    border-bottom: 1px solid var(--rule);
  }
  .wish label {
    display: flex;
    gap: 8px;
    align-items: center;
    justify-content: space-between;
  }
  input {
    accent-color: var(--verdigris);
  }
  .wish input {
    width: 150px;
  }
  ol {
    margin: 0;
    padding: 0;
    list-style: none;
    overflow-y: auto;
  }
  li {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 0 16px;
    border-bottom: 1px solid var(--rule);
  }
  li.at {
    background: var(--wash);
  }
  li.out {
    opacity: 0.6;
  }
  li button {
    display: grid;
    flex: 1;
    gap: 2px;
    padding: 7px 0;
    background: none;
    border: 0;
    text-align: left;
  }
  .empty {
    margin: 20px 16px;
    font: 17px/1.5 var(--book);
  }
  footer {
    display: flex;
    gap: 14px;
    align-items: center;
    padding: 10px 16px;
    border-top: 1px solid var(--rule);
  }
</style>
