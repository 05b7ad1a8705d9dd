<script lang="ts">
  import type { Snippet } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { can, ROLE_LABELS, type Ability, type Role } from '#core/people/roles';
  import Segments from '../common/Segments.svelte';
  import Sheet from '../common/Sheet.svelte';
  import { applyTheme, readTheme, THEMES, type Theme } from './theme';
  import Keys from './Keys.svelte';
  import Underway from './Underway.svelte';

  interface Props {
    actor: { name: string; email: string; role: Role };
    children: Snippet;
  }
  const { actor, children }: Props = $props();

  const DIVIDERS: { label: string; path: string; needs: Ability }[] = [
    { label: 'Intake', path: '/intake', needs: 'intake' },
    { label: 'Catalogue', path: '/catalogue', needs: 'look' },
    { label: 'Collections', path: '/collections', needs: 'look' },
    { label: 'Dispatch', path: '/dispatch', needs: 'dispatch' },
    { label: 'Ledger', path: '/ledger', needs: 'ledger' },
    { label: 'Census', path: '/census', needs: 'look' },
  ];
  const dividers = $derived(DIVIDERS.filter(({ needs }) => can(actor.role, needs)));
  const initials = $derived(
    actor.name
      .split(/\s+/)
      .map((word) => word[0])
      .slice(0, 2)
      .join('')
      .toUpperCase(),
  );
  let meAnchor = $state<HTMLElement>();
  let showsMe = $state(false);
  let showsKeys = $state(false);
  let theme = $state<Theme>('light');

  $effect(() => {
    theme = readTheme();
    applyTheme(theme);
  });

  function choose(next: Theme): void {
    theme = next;
    applyTheme(next);
  }

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable) return;
    if (event.key === '?') showsKeys = true;
    // The sentence is one key away everywhere; the wall has its own.
    if (event.key !== '/' || page.url.pathname === '/catalogue' || !can(actor.role, 'look')) return;
    event.preventDefault();
    const q = page.url.pathname.startsWith('/catalogue/') ? page.url.searchParams.get('q') : null;
    void goto(`/catalogue${q ? `?q=${encodeURIComponent(q)}` : ''}#sentence`);
  }
</script>

<svelte:window onkeydown={keys} />

<div class="frame">
  <a class="skip" href="#main">Skip to content</a>
  <header>
    <a class="mark" href="/catalogue" aria-label="Mindful Archive">
      <svg width="16" height="18" viewBox="0 0 16 18" aria-hidden="true"
        ><path
          d="M1 2h8l1.5 2.5H15V17H1z"
          fill="none"
          stroke="currentColor"
          stroke-width="1.6"
        /><path d="M1 5h14" stroke="currentColor" stroke-width="1.6" /></svg
      >
      <span>Mindful Archive</span>
    </a>
    <nav aria-label="Areas">
      {#each dividers as { label, path } (path)}
        {@const here = page.url.pathname.startsWith(path)}
        <a href={path} class:here aria-current={here ? 'page' : undefined}>{label}</a>
      {/each}
    </nav>
    <div class="end">
      <Underway />
      <button
        bind:this={meAnchor}
        class="me"
        type="button"
        aria-label="{initials}: {actor.name}, {ROLE_LABELS[actor.role]}"
        aria-expanded={showsMe}
        onclick={() => (showsMe = !showsMe)}
      >
        {initials}
      </button>
    </div>
  </header>
  <main id="main" tabindex="-1">{@render children()}</main>
</div>

{#if showsMe && meAnchor}
  <Sheet label="You" anchor={meAnchor} onclose={() => (showsMe = false)}>
    <div class="who">
      <strong>{actor.name}</strong>
      <span class="pencil">{ROLE_LABELS[actor.role]} · {actor.email}</span>
    </div>
    <div class="theme">
      <Segments
        label="Light"
        options={THEMES.map((value) => ({ value, words: value }))}
        value={theme}
        onchange={choose}
        wide
      />
    </div>
    <a class="row" href="/account">Account and sessions</a>
    <a class="row" href="/lists">Lists: terms, stages, stamps, contributors, rules</a>
    {#if can(actor.role, 'manage')}
      <a class="row" href="/people">People</a>
      <a class="row" href="/places">Places</a>
    {/if}
    <button class="row" type="button" onclick={() => ((showsKeys = true), (showsMe = false))}
      >Keys of this screen</button
    >
    <form method="post" action="/sign-out">
      <button class="row" type="submit">Sign out</button>
    </form>
  </Sheet>
{/if}
{#if showsKeys}<Keys onclose={() => (showsKeys = false)} />{/if}

<style>
  .frame {
    display: grid;
    grid-template-rows: 44px minmax(0, 1fr);
    height: 100vh;
  }
  header {
    display: flex;
    align-items: end;
    padding: 0 16px;
    border-bottom: 1px solid var(--ink);
    background: var(--paper);
  }
  .mark {
    display: flex;
    gap: 8px;
    align-items: center;
    align-self: center;
    margin-right: 24px;
    color: var(--ink);
    font: italic 500 20px/1 var(--book);
    text-decoration: none;
  }
  nav {
    display: flex;
    gap: 2px;
  }
  nav a {
    margin-bottom: -1px;
    padding: 8px 15px 10px;
    border: 1px solid transparent;
    border-bottom: 0;
    border-radius: 5px 5px 0 0;
    color: var(--pencil);
    font-size: 14px;
    text-decoration: none;
  }
  nav a:hover {
    color: var(--ink);
  }
  nav a.here {
    border-color: var(--ink);
    background: var(--card);
    color: var(--ink);
    font-weight: 600;
  }
  .end {
    display: flex;
    gap: 12px;
    align-items: center;
    align-self: center;
    margin-left: auto;
  }
  .me {
    width: 27px;
    height: 27px;
    border: 0;
    border-radius: 50%;
    background: var(--plum);
    color: var(--card);
    font-size: 11.5px;
    font-weight: 700;
  }
  main {
    min-height: 0;
    outline: none;
  }
  .skip {
    position: absolute;
    left: -999px;
  }
  .skip:focus {
    left: 8px;
    top: 8px;
    z-index: 99;
    padding: 6px 10px;
    background: var(--card);
  }
  .who {
    display: grid;
    padding: 4px 14px 10px;
  }
  .theme {
    margin: 0 14px 8px;
  }
  .row {
    display: block;
    width: 100%;
    padding: 6px 14px;
    border: 0;
    background: none;
    color: var(--ink);
    text-align: left;
    text-decoration: none;
  }
  .row:hover {
    background: var(--wash);
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .frame {
      grid-template-rows: auto minmax(0, 1fr);
      height: 100dvh;
    }
    header {
      flex-wrap: wrap;
      gap: 0 8px;
      padding: 6px 8px 0;
    }
    .mark {
      margin-right: 0;
      font-size: 16.5px;
    }
    .end {
      order: 1;
    }
    nav {
      order: 2;
      flex-wrap: wrap;
      width: 100%;
    }
    nav a {
      padding: 7px 5px 8px;
      font-size: 12.5px;
      letter-spacing: -0.01em;
    }
  }
</style>
