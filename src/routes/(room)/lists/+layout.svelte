<script lang="ts">
  import type { Snippet } from 'svelte';
  import { page } from '$app/state';

  const { children }: { children: Snippet } = $props();
  const LISTS = [
    { path: '/lists', label: 'Thesaurus' },
    { path: '/lists/stages', label: 'Stages' },
    { path: '/lists/stamps', label: 'Stamps' },
    { path: '/lists/contributors', label: 'Contributors' },
    { path: '/lists/spots', label: 'Kept places' },
    { path: '/lists/rules', label: 'House rules' },
  ];
</script>

<div class="lists">
  <nav aria-label="Lists">
    {#each LISTS as { path, label } (path)}
      <a href={path} aria-current={page.url.pathname === path ? 'page' : undefined}>{label}</a>
    {/each}
  </nav>
  <div class="one">{@render children()}</div>
</div>

<style>
  .lists {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    height: 100%;
  }
  nav {
    display: flex;
    gap: 20px;
    padding: 12px 24px 0;
    border-bottom: 1px solid var(--rule);
  }
  a {
    padding: 0 0 8px;
    border-bottom: 2px solid transparent;
    color: var(--pencil);
    font: italic 16.5px/1.4 var(--book);
    text-decoration: none;
  }
  a:hover {
    color: var(--verdigris);
  }
  a[aria-current] {
    border-color: var(--ink);
    color: var(--ink);
  }
  .one {
    min-height: 0;
  }
  @media (max-width: 760px) {
    nav {
      flex-wrap: wrap;
      gap: 2px 14px;
      padding: 8px 8px 0;
    }
  }
</style>
