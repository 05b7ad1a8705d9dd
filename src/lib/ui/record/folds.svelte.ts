/** Which sections of the record card are open in this browser. */
const KEY = 'mindful.record.open';

export class Folds {
  open = $state<readonly string[]>([]);

  /** Remembered choices exist in browsers only: call it once the page lives. */
  remember(): void {
    const kept = localStorage.getItem(KEY);
    this.open = kept ? kept.split(' ') : [];
  }
  toggle(section: string): void {
    this.open = this.open.includes(section)
      ? this.open.filter((one) => one !== section)
      : [...this.open, section];
    localStorage.setItem(KEY, this.open.join(' '));
  }
}
