import { scaled } from '#core/wall/blocks';

/** A scrolled plane that may be taller than browsers allow: the bar then tells parts of the whole. */
export class Tall {
  /** px of the plane above what is seen, and where the bar stands. */
  top = $state(0);
  scroll = $state(0);
  #box: HTMLElement | undefined;

  /** @param tall px of the whole plane @param view px of what is seen of it */
  constructor(
    readonly tall: () => number,
    readonly view: () => number,
  ) {}

  readonly page = $derived.by(() => scaled(this.tall(), this.view()));

  /** For `use:` on the element that scrolls. */
  readonly scroller = (box: HTMLElement): { destroy: () => void } => {
    this.#box = box;
    box.addEventListener('scroll', this.#scrolled);
    box.addEventListener('wheel', this.#wheel, { passive: false });
    return {
      destroy: () => {
        box.removeEventListener('scroll', this.#scrolled);
        box.removeEventListener('wheel', this.#wheel);
      },
    };
  };

  /** Look at another height. */
  go(to: number): void {
    if (!this.#box) return;
    this.top = Math.max(0, Math.min(this.tall() - this.view(), to));
    this.scroll = this.page.toScroll(this.top);
    this.#box.scrollTop = this.scroll;
    this.scroll = this.#box.scrollTop;
  }

  readonly #scrolled = (): void => {
    if (!this.#box || Math.abs(this.#box.scrollTop - this.scroll) < 1) return;
    this.scroll = this.#box.scrollTop;
    this.top = this.page.toWall(this.scroll);
  };

  /** A wheel moves by what it says, however small a part of the page that is. */
  readonly #wheel = (event: WheelEvent): void => {
    if (this.page.page === this.tall() || event.ctrlKey || event.deltaY === 0) return;
    event.preventDefault();
    this.go(this.top + event.deltaY * (event.deltaMode === 1 ? 20 : 1));
  };
}
