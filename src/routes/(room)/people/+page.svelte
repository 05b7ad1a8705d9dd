<script lang="ts">
  import { enhance } from '$app/forms';
  import { ROLE_LABELS, ROLES } from '#core/people/roles';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data, form }: PageProps = $props();
  /** Whom one is about to shut out. */
  let asks = $state('');
</script>

<svelte:head><title>People · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>People</h1>
  {#if form?.wrong}<p class="wrong" role="alert">{form.wrong}</p>{/if}
  <ul>
    {#each data.people as person (person.id)}
      <li>
        <span><strong>{person.name}</strong> <span class="pencil">{person.email}</span></span>
        {#if person.id === data.actor.id}<span>{ROLE_LABELS[person.role]}, you</span>
        {:else if person.shutOutAt}
          <form class="out" method="post" action="?/letIn" use:enhance>
            <input type="hidden" name="id" value={person.id} />
            <span class="wrong">shut out since {instant(person.shutOutAt)}</span>
            <button class="button" type="submit">Let {person.name} in again</button>
          </form>
        {:else}
          <div class="acts">
            <form method="post" action="?/role" use:enhance>
              <input type="hidden" name="id" value={person.id} />
              <select
                class="field"
                name="role"
                aria-label="Role of {person.name}"
                value={person.role}
                onchange={(event) => event.currentTarget.form?.requestSubmit()}
              >
                {#each ROLES as role (role)}<option value={role}>{ROLE_LABELS[role]}</option>{/each}
              </select>
            </form>
            {#if asks === person.id}
              <form class="out" method="post" action="?/shutOut" use:enhance>
                <input type="hidden" name="id" value={person.id} />
                <span>Their windows close at once; their work stays.</span>
                <button class="button" type="submit">Shut {person.name} out</button>
                <button class="link" type="button" onclick={() => (asks = '')}>Leave it</button>
              </form>
            {:else}<button
                class="link"
                type="button"
                aria-label="Shut out … {person.name}"
                onclick={() => (asks = person.id)}>Shut out …</button
              >{/if}
          </div>
        {/if}
      </li>
    {/each}
  </ul>
  <h2>Let someone in</h2>
  <form class="new" method="post" action="?/add" use:enhance>
    <label><span class="label">Name</span><input class="field" name="name" required /></label>
    <label
      ><span class="label">E-mail address</span><input
        class="field"
        name="email"
        type="email"
        required
      /></label
    >
    <label
      ><span class="label">First password</span><input
        class="field"
        name="password"
        type="password"
        autocomplete="new-password"
        minlength="10"
        required
      /></label
    >
    <label
      ><span class="label">Role</span><select class="field" name="role" value="teammate"
        >{#each ROLES as role (role)}<option value={role}>{ROLE_LABELS[role]}</option
          >{/each}</select
      ></label
    >
    <button class="button act" type="submit">Make the account</button>
  </form>
</div>

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
    margin: 24px 0 8px;
  }
  ul {
    max-width: 980px;
    margin-top: 12px;
  }
  li {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 16px;
    min-height: 44px;
    border-top: 1px solid var(--rule);
  }
  .acts,
  .out {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    justify-content: flex-end;
  }
  .new {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 200px));
    gap: 12px;
  }
  .new .button {
    justify-self: start;
  }
</style>
