<script lang="ts">
  import Threshold from '$lib/ui/shell/Threshold.svelte';
  import type { PageProps } from './$types';

  const { form }: PageProps = $props();
</script>

<Threshold
  title="A new archive"
  lead="You are its first keeper: you bring material in, look after it, and let others in."
>
  <form method="post">
    <label
      ><span class="label">Your name</span><input
        class="field"
        name="name"
        autocomplete="name"
        required
        value={form?.name ?? ''}
      /></label
    >
    <label
      ><span class="label">E-mail address</span><input
        class="field"
        name="email"
        type="email"
        autocomplete="username"
        required
        value={form?.email ?? ''}
      /></label
    >
    <label
      ><span class="label">Password, at least 10 characters</span><input
        class="field"
        name="password"
        type="password"
        autocomplete="new-password"
        minlength="10"
        required
      /></label
    >
    {#if form?.wrong}<p class="wrong" role="alert">{form.wrong}</p>{/if}
    <button class="button act" type="submit">Open the archive</button>
  </form>
</Threshold>
