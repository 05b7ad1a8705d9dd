import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine';
import {
  draggable,
  dropTargetForElements,
} from '@atlaskit/pragmatic-drag-and-drop/element/adapter';

interface Row {
  id: string;
  /** Another row was let go over this one. */
  ontake: (id: string) => void;
}

/** A row of a list that is dragged to stand before another one; null: it stays. */
export function reordered(
  node: HTMLElement,
  row: Row | null,
): { update: (row: Row | null) => void; destroy: () => void } {
  let own = row;
  const mark = (isOver: boolean) => () => node.classList.toggle('over', isOver);
  const destroy = combine(
    draggable({
      element: node,
      canDrag: () => own !== null,
      getInitialData: () => ({ row: own?.id }),
    }),
    dropTargetForElements({
      element: node,
      canDrop: ({ source }) => own !== null && typeof source.data['row'] === 'string',
      onDragEnter: mark(true),
      onDragLeave: mark(false),
      onDrop: ({ source }) => {
        node.classList.remove('over');
        own?.ontake(String(source.data['row']));
      },
    }),
  );
  return { update: (next) => (own = next), destroy };
}
