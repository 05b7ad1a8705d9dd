import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine';
import {
  draggable,
  dropTargetForElements,
} from '@atlaskit/pragmatic-drag-and-drop/element/adapter';

/** What an element is to those who drag: a thing of some kind that may be taken along, and where things are laid. */
export interface Dragged {
  kind: string;
  id: string;
  /** It stays where it is. */
  isFixed?: boolean;
  /** What is done with another thing that is laid on it, by its kind. */
  takes: Partial<Record<string, ((id: string) => void) | undefined>>;
}

/** An element that is dragged onto others of its kind, and takes in what is laid on it; marked while one is over it. */
export function dragged(
  node: HTMLElement,
  given: Dragged,
): { update: (given: Dragged) => void; destroy: () => void } {
  let own = given;
  const mark = (isOver: boolean) => () => node.classList.toggle('over', isOver);
  const taking = (data: Record<string | symbol, unknown>): (() => void) | undefined => {
    for (const [kind, take] of Object.entries(own.takes)) {
      const id = data[kind];
      if (take && typeof id === 'string' && !(kind === own.kind && id === own.id))
        return () => take(id);
    }
    return undefined;
  };
  const destroy = combine(
    draggable({
      element: node,
      canDrag: () => own.isFixed !== true,
      getInitialData: () => ({ [own.kind]: own.id }),
    }),
    dropTargetForElements({
      element: node,
      canDrop: ({ source }) => taking(source.data) !== undefined,
      onDragEnter: mark(true),
      onDragLeave: mark(false),
      onDrop: ({ source }) => {
        node.classList.remove('over');
        taking(source.data)?.();
      },
    }),
  );
  return { update: (next) => (own = next), destroy };
}
