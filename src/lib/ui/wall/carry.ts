import {
  draggable,
  dropTargetForElements,
} from '@atlaskit/pragmatic-drag-and-drop/element/adapter';

interface Action<T> {
  update: (value: T) => void;
  destroy: () => void;
}

/** An item that can be carried to where items are taken, and with it all that is selected. */
export function carried(node: HTMLElement, id: string | undefined): Action<string | undefined> {
  let own = id;
  const destroy = draggable({
    element: node,
    canDrag: () => own !== undefined,
    getInitialData: () => ({ item: own }),
  });
  return { update: (next) => (own = next), destroy };
}

/** Where items are taken; marked while one is over it. */
export function takes(
  node: HTMLElement,
  take: ((item: string) => void) | undefined,
): Action<((item: string) => void) | undefined> {
  let own = take;
  const mark = (isOver: boolean) => () => node.classList.toggle('over', isOver);
  const destroy = dropTargetForElements({
    element: node,
    canDrop: ({ source }) => own !== undefined && typeof source.data['item'] === 'string',
    onDragEnter: mark(true),
    onDragLeave: mark(false),
    onDrop: ({ source }) => {
      node.classList.remove('over');
      own?.(String(source.data['item']));
    },
  });
  return { update: (next) => (own = next), destroy };
}
