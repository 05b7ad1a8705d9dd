<script lang="ts">
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
</script>

<svelte:head><title>For programs · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>For programs</h1>
  <p>
    Ask with a personal token, made on your <a class="link" href="/account">account page</a>, in the
    header
    <code>Authorization: Bearer mat_…</code>. Answers are JSON; what goes wrong comes as problem
    details (RFC 9457). The whole is described after OpenAPI 3.1 in
    <a class="link" href="/api/v1/openapi.json">openapi.json</a>.
  </p>
  {#each data.operations as { method, path, summary, scope, query, takesBody } (`${method} ${path}`)}
    <section>
      <h2><code>{method.toUpperCase()} {path}</code></h2>
      <p>
        {summary}. Scope: {scope}.{takesBody
          ? ' Takes a JSON body: change, and the version it is changed from.'
          : ''}
      </p>
      {#if query.length}
        <dl>
          {#each query as { name, words } (name)}<dt><code>{name}</code></dt>
            <dd>{words}</dd>{/each}
        </dl>
      {/if}
    </section>
  {/each}
  <h2>Fields</h2>
  <div class="scroll" role="region" aria-label="Fields" tabindex="-1">
    <table>
      <thead
        ><tr><th>key</th><th>label</th><th>type</th><th>part</th><th>tests</th><th>can</th></tr
        ></thead
      >
      <tbody>
        {#each data.fields as field (field.key)}
          <tr
            ><td><code>{field.key}</code></td><td
              >{field.label}{field.unit ? ` (${field.unit})` : ''}</td
            ><td>{field.type}</td><td>{field.part}</td><td>{field.tests}</td><td>{field.uses}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
</div>

<style>
  .page {
    height: 100%;
    padding: 20px 24px 60px;
    overflow: auto;
  }
  h1 {
    font: 500 28px/1.25 var(--book);
  }
  h2 {
    margin-top: 20px;
    font-size: 16.5px;
  }
  p {
    max-width: 760px;
  }
  code {
    font-family: var(--mono);
  }
  dl {
    display: grid;
    grid-template-columns: 90px minmax(0, 700px);
    gap: 2px 12px;
  }
  td,
  th {
    padding: 2px 14px 2px 0;
    text-align: left;
    vertical-align: top;
  }
</style>
