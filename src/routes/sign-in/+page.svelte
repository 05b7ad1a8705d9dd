<script lang="ts">
  import Threshold from '$lib/ui/shell/Threshold.svelte';
  import type { PageProps } from './$types';

  const { form }: PageProps = $props();
</script>

<Threshold
  title="Sign in"
  lead="The reading room of the studio’s own pictures, footage and sounds."
>
  <form method="post">
    <label>
      <span class="label">E-mail address</span>
      <input
        class="field"
        name="email"
        type="email"
        autocomplete="username"
        required
        value={form?.email ?? ''}
      />
    </label>
    <label>
      <span class="label">Password</span>
      <input
        class="field"
        name="password"
        type="password"
        autocomplete="current-password"
        required
      />
    </label>
    {#if form?.wrong}<p class="wrong" role="alert">{form.wrong}</p>{/if}
    <button class="button act" type="submit">Sign in</button>
  </form>
</Threshold>
