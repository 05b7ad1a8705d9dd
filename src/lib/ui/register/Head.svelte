<script lang="ts">
  import {
    draggable,
    dropTargetForElements,
  } from '@atlaskit/pragmatic-drag-and-drop/element/adapter';
  import { NARROWEST, WIDEST, type Column } from '#core/register/columns';
  import { can, knownField } from '#core/fields/registry';
  import type { Query } from '#core/query/tree';

  interface Props {
    column: Column;
    /** Its place among the columns, from 0. */
    place: number;
    order: Query['order'];
    onorder: (by: string) => void;
    onresize: (width: number) => void;
    onplace: (key: string, to: number) => void;
  }
  const { column, place, order, onorder, onresize, onplace }: Props = $props();
  const field = $derived(knownField(column.key));
  const isOrder = $derived(order.by === column.key);
  let over = $state(false);

  function drags(node: HTMLElement): { destroy: () => void } {
    const ends = [
      draggable({
        element: node,
        dragHandle: node.querySelector('.name')!,
        getInitialData: () => ({ column: column.key }),
      }),
      dropTargetForElements({
        element: node,
        canDrop: ({ source }) => typeof source.data['column'] === 'string',
        onDragEnter: ({ source }) => (over = source.data['column'] !== column.key),
        onDragLeave: () => (over = false),
        onDrop: ({ source }) => {
          over = false;
          onplace(String(source.data['column']), place);
        },
      }),
    ];
    return { destroy: () => ends.forEach((end) => end()) };
  }

  let held: { x: number; width: number } | null = null;
  function grip(event: PointerEvent & { currentTarget: HTMLElement }): void {
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    held = { x: event.clientX, width: column.width };
  }
  function pull(event: PointerEvent): void {
    if (held) onresize(held.width + event.clientX - held.x);
  }
  function keys(event: KeyboardEvent): void {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    onresize(column.width + step * 10);
  }
  /** Alt and an arrow put the column one place on. */
  function placed(event: KeyboardEvent): void {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!step || !event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    onplace(column.key, place + step);
  }
</script>

<div
  class="head"
  class:over
  use:drags
  role="columnheader"
  tabindex="-1"
  aria-sort={isOrder
    ? order.down
      ? 'descending'
      : 'ascending'
    : can(field, 'sort')
      ? 'none'
      : undefined}
>
  {#if can(field, 'sort')}
    <button
      class="name"
      type="button"
      title="{field.label}: order by it; drag or Alt and an arrow to move it"
      onclick={() => onorder(column.key)}
      onkeydown={placed}>{field.label}{isOrder ? (order.down ? ' ↓' : ' ↑') : ''}</button
    >
  {:else}
    <button
      class="name"
      type="button"
      title="{field.label}: drag or Alt and an arrow to move it"
      onkeydown={placed}>{field.label}</button
    >
  {/if}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <span
    class="grip"
    role="separator"
    tabindex="0"
    aria-orientation="vertical"
    aria-label="Width of {field.label}"
    aria-valuenow={column.width}
    aria-valuemin={NARROWEST}
    aria-valuemax={WIDEST}
    onpointerdown={grip}
    onpointermove={pull}
    onpointerup={() => (held = null)}
    onkeydown={keys}
  ></span>
</div>

<style>
  .head {
    position: relative;
    min-width: 0;
    color: var(--pencil);
    font-size: 11.5px;
    font-weight: 600;
  }
  .name {
    display: block;
    width: 100%;
    min-height: 24px;
    border: 0;
    padding: 0;
    background: none;
    font-weight: 600;
    text-align: left;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .over {
    box-shadow: -5px 0 0 -3px var(--verdigris);
  }
  .grip {
    position: absolute;
    top: 0;
    right: -8px;
    width: 8px;
    height: 100%;
    cursor: col-resize;
    touch-action: none;
  }
  .grip::after {
    content: '';
    position: absolute;
    inset: 4px 3px;
    background: var(--rule);
  }
</style>
