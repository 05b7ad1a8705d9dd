<script lang="ts">
  import type { Stage } from '#core/stages/stages';

  interface Props {
    stage: Pick<Stage, 'name' | 'shape' | 'colour'>;
  }
  const { stage }: Props = $props();
  const SHAPES = {
    ring: 'M5.5 1a4.5 4.5 0 1 0 .01 0zM5.5 3.2a2.3 2.3 0 1 1-.01 0z',
    diamond: 'M5.5 0L11 5.5L5.5 11L0 5.5Z',
    disc: 'M5.5 .8a4.7 4.7 0 1 0 .01 0z',
    square: 'M1 1h9v9h-9z',
    triangle: 'M5.5 .8L10.6 10H.4Z',
    bar: 'M0 3.6h11v3.8h-11z',
  };
</script>

<svg width="11" height="11" viewBox="0 0 11 11" role="img" aria-label="Stage: {stage.name}">
  <path d={SHAPES[stage.shape]} fill="var(--{stage.colour})" fill-rule="evenodd" />
</svg>

<style>
  svg {
    flex: none;
    vertical-align: -1px;
  }
</style>
