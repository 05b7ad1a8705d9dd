/** Where somebody writes on the record card. It stays in its field while the card goes from item to item. */
export class Caret {
  /** Key of the field that is written into. */
  at = $state<string | null>(null);
  /** What the card is about; what is typed begins anew with each. */
  item = $state('');

  /**
   * @param order keys of the fields that can be seen, from above
   * @param onwalk go to the next or previous item
   */
  constructor(
    private readonly order: () => string[],
    private readonly onwalk: (step: 1 | -1) => void,
  ) {}

  /** The field below or above one. */
  beside(key: string, step: 1 | -1): string | null {
    const order = this.order();
    return order[order.indexOf(key) + step] ?? null;
  }

  /**
   * Tab goes to the field beside, Alt and an arrow to the item beside; what was written is kept before.
   * @returns whether it was such a key
   */
  moves(event: KeyboardEvent, from: string, keep: () => void): boolean {
    const next = event.key === 'Tab' ? this.beside(from, event.shiftKey ? -1 : 1) : null;
    const isWalk = event.altKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp');
    if (!next && !isWalk) return false;
    event.preventDefault();
    keep();
    if (next) this.at = next;
    else this.onwalk(event.key === 'ArrowDown' ? 1 : -1);
    return true;
  }
}

/** What was pasted, where it is a column of several lines. */
export function columnIn(event: ClipboardEvent): string | null {
  const pasted = event.clipboardData?.getData('text/plain') ?? '';
  return /[\r\n]\S/.test(pasted.trim()) ? pasted : null;
}
