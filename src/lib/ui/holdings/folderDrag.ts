import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine';
import {
  draggable,
  dropTargetForElements,
} from '@atlaskit/pragmatic-drag-and-drop/element/adapter';

interface Node {
  id: string;
  /** It can be taken elsewhere. */
  canGo: boolean;
  /** Another folder was let go over it; undefined where nobody may. */
  onfolder?: ((id: string) => void) | undefined;
  /** An item was let go over it. */
  onitem?: ((id: string) => void) | undefined;
}

/** A folder that is dragged into others, and takes folders and items in. */
export function folderDrag(
  node: HTMLElement,
  given: Node,
): { update: (given: Node) => void; destroy: () => void } {
  let own = given;
  const mark = (isOver: boolean) => () => node.classList.toggle('over', isOver);
  const destroy = combine(
    draggable({
      element: node,
      canDrag: () => own.canGo,
      getInitialData: () => ({ folder: own.id }),
    }),
    dropTargetForElements({
      element: node,
      canDrop: ({ source: { data } }) =>
        (own.onfolder !== undefined &&
          typeof data['folder'] === 'string' &&
          data['folder'] !== own.id) ||
        (own.onitem !== undefined && typeof data['item'] === 'string'),
      onDragEnter: mark(true),
      onDragLeave: mark(false),
      onDrop: ({ source: { data } }) => {
        node.classList.remove('over');
        if (typeof data['folder'] === 'string') own.onfolder?.(data['folder']);
        else own.onitem?.(String(data['item']));
      },
    }),
  );
  return { update: (next) => (own = next), destroy };
}
