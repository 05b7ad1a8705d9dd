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

/** Where items are taken, and at which point of the window; marked while one is over it. */
type Take = (item: string, at: { x: number; y: number }) => void;
export function takes(node: HTMLElement, take: Take | undefined): Action<Take | undefined> {
  let own = take;
  const mark = (isOver: boolean) => () => node.classList.toggle('over', isOver);
  const destroy = dropTargetForElements({
    element: node,
    canDrop: ({ source }) => own !== undefined && typeof source.data['item'] === 'string',
    onDragEnter: mark(true),
    onDragLeave: mark(false),
    onDrop: ({ source, location }) => {
      node.classList.remove('over');
      const { clientX: x, clientY: y } = location.current.input;
      own?.(String(source.data['item']), { x, y });
    },
  });
  return { update: (next) => (own = next), destroy };
}
