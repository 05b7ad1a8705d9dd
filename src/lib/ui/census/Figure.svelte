<script lang="ts">
  import type { Choice } from '#core/catalogue/tile';
  import type { Field } from '#core/fields/field';
  import { unitWords } from '#core/query/words';
  import { formatCount } from '#core/text/quantities';

  interface Props {
    field: Field;
    choices: Choice[];
    lacking: number;
    /** Address of what a bar counts; null for what says nothing in the field. */
    hrefOf: (value: string | number | null) => string;
    /** Words that stand for a value. */
    wordsOf?: (choice: Choice) => string;
  }
  const { field, choices, lacking, hrefOf, wordsOf = ({ label }) => label }: Props = $props();
  const most = $derived(Math.max(1, lacking, ...choices.map(({ count }) => count)));
  const upright = $derived(field.type === 'number' && choices.length > 5 && field.key !== 'rating');
</script>

<section>
  <h2>{field.label}</h2>
  {#if choices.length === 0}
    <p class="pencil">nothing said</p>
  {:else if upright}
    <div class="upright">
      {#each choices as choice, at (choice.value)}
        <a
          href={hrefOf(choice.value)}
          title="{choice.label}{unitWords(field)}: {formatCount(choice.count)}"
          aria-label="{choice.label}{unitWords(field)}: {formatCount(choice.count)}"
          ><i style="height:{(choice.count / most) * 92}px"></i><span class="mono"
            >{at % Math.ceil(choices.length / 9) === 0 ? choice.label : ''}</span
          ></a
        >
      {/each}
    </div>
  {:else}
    <ul>
      {#each choices as choice (choice.value)}
        <li>
          <a href={hrefOf(choice.value)}
            ><span class="what">{wordsOf(choice)}</span><i
              style="width:{(choice.count / most) * 46}%"
            ></i><span class="mono">{formatCount(choice.count)}</span></a
          >
        </li>
      {/each}
      {#if lacking > 0}
        <li>
          <a class="lacks" href={hrefOf(null)}
            ><span class="what">unknown</span><i style="width:{(lacking / most) * 46}%"></i><span
              class="mono">{formatCount(lacking)}</span
            ></a
          >
        </li>
      {/if}
    </ul>
  {/if}
</section>

<style>
  section {
    break-inside: avoid;
    min-width: 0;
  }
  h2 {
    margin-bottom: 4px;
    font: 500 16.5px var(--book);
  }
  a {
    color: inherit;
    text-decoration: none;
  }
  li a {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 24px;
  }
  .what {
    flex: 0 0 40%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  i {
    flex: none;
    min-width: 2px;
    height: 10px;
    background: var(--verdigris);
  }
  .lacks i {
    background: var(--rule);
  }
  .mono {
    color: var(--pencil);
  }
  a:hover {
    background: var(--wash);
  }
  .upright {
    display: flex;
    gap: 3px;
    align-items: flex-end;
    height: 112px;
    border-bottom: 1px solid var(--ink);
    overflow: hidden;
  }
  .upright a {
    flex: 1;
    display: flex;
    flex-direction: column;
    justify-content: flex-end;
    align-items: center;
    min-width: 0;
  }
  .upright i {
    width: 100%;
    min-height: 2px;
  }
  .upright .mono {
    height: 14px;
    font-size: 10px;
    white-space: nowrap;
  }
</style>
