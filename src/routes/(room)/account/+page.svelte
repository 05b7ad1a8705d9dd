<script lang="ts">
  import { enhance } from '$app/forms';
  import { ROLE_LABELS } from '#core/people/roles';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data, form }: PageProps = $props();
  const browser = (agent: string): string =>
    /(Firefox|Edg|Chrome|Safari)\/[\d.]+/
      .exec(agent)?.[0]
      .replace('/', ' ')
      .replace(/\.\d.*$/, '') ?? 'another program';
</script>

<svelte:head><title>Account · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>{data.actor.name}</h1>
  <p class="pencil">{ROLE_LABELS[data.actor.role]} · {data.actor.email}</p>
  {#if form?.wrong}<p class="wrong" role="alert">{form.wrong}</p>{/if}
  {#if form && 'changed' in form}<p role="status">
      The password is changed; every other session is ended.
    </p>{/if}
  <h2>Where you are signed in</h2>
  <ul>
    {#each data.sessions as session (session.id)}
      <li>
        <span
          >{browser(session.userAgent)}{session.address ? ` at ${session.address}` : ''}, since {instant(
            session.since,
          )}</span
        >
        {#if session.isThis}<span class="pencil">this window</span>
        {:else}<form method="post" action="?/revoke" use:enhance>
            <input type="hidden" name="id" value={session.id} /><button class="button" type="submit"
              >End it</button
            >
          </form>{/if}
      </li>
    {/each}
  </ul>
  <h2>Tokens for programs</h2>
  <p class="pencil">
    A program that brings one acts as you, at the doors of <a class="link" href="/reference"
      >the API</a
    > alone.
  </p>
  {#if form && 'token' in form}
    <p role="status">
      Copy it now; the archive keeps no copy of it. <input
        class="field mono"
        readonly
        value={form.token}
        aria-label="The new token"
        onfocus={(event) => event.currentTarget.select()}
      />
    </p>
  {/if}
  <ul>
    {#each data.tokens as token (token.id)}
      <li>
        <span
          >{token.name}, {token.scopes.join(' and ')}s, made {instant(token.createdAt)}, {token.usedAt
            ? `last used ${instant(token.usedAt)}`
            : 'never used'}, {token.expiresAt
            ? `ends ${instant(token.expiresAt)}`
            : 'without an end: make a new one'}</span
        >
        <form method="post" action="?/revokeToken" use:enhance>
          <input type="hidden" name="id" value={token.id} /><button class="button" type="submit"
            >Revoke it</button
          >
        </form>
      </li>
    {/each}
  </ul>
  <form class="token" method="post" action="?/token" use:enhance>
    <label
      ><span class="label">What uses it</span><input
        class="field"
        name="name"
        aria-label="What uses it"
        required
        maxlength="100"
      /></label
    >
    <label><input type="checkbox" name="describe" /> it may describe, not only read</label>
    <fieldset class="lasts">
      <legend class="label">It lasts</legend>
      {#each [30, 90, 365] as days (days)}
        <label
          ><input type="radio" name="days" value={days} checked={days === 90} /> {days} days</label
        >
      {/each}
    </fieldset>
    <button class="button" type="submit">Make a token</button>
  </form>
  <h2>A new password</h2>
  <form class="password" method="post" action="?/password" use:enhance>
    <label
      ><span class="label">Present password</span><input
        class="field"
        name="current"
        type="password"
        autocomplete="current-password"
        required
      /></label
    >
    <label
      ><span class="label">New password, at least 10 characters</span><input
        class="field"
        name="next"
        type="password"
        autocomplete="new-password"
        minlength="10"
        required
      /></label
    >
    <label
      ><input type="checkbox" name="tokens" value="yes" checked /> end the tokens of programs too</label
    >
    <button class="button act" type="submit">Change it</button>
  </form>
</div>

<style>
  .token {
    display: flex;
    gap: 16px;
    align-items: end;
  }
  .page {
    height: 100%;
    padding: 20px 24px;
    overflow: auto;
  }
  h1 {
    font-size: 28px;
  }
  h2 {
    margin: 24px 0 8px;
  }
  ul,
  .password {
    max-width: 560px;
  }
  li {
    display: flex;
    justify-content: space-between;
    align-items: center;
    min-height: 40px;
    border-top: 1px solid var(--rule);
  }
  .password {
    display: grid;
    gap: 12px;
    justify-items: start;
  }
  .password label {
    width: 300px;
  }
</style>
