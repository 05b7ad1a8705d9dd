import { NUMBERS, PARTING } from '../query/words';
import { LONGEST_NAME } from './dictionary';
import { lower, type Sequence } from './tokens';

/** Where one is in a sentence: what stands here is tried, and stepped over where it fits. */
export class Cursor {
  at = 0;

  constructor(readonly tokens: Sequence) {}

  get done(): boolean {
    return this.at >= this.tokens.length;
  }
  word(step = 0): string {
    const token = this.tokens[this.at + step];
    return token ? lower(token) : '';
  }
  /** Step over words if they stand here. */
  takes(...words: string[]): boolean {
    if (!words.every((wished, step) => this.word(step) === wished)) return false;
    this.at += words.length;
    return true;
  }
  matches(words: Sequence): boolean {
    return words.every(({ lower: wished }, step) => this.word(step) === wished);
  }
  /** What a try finds, or stays where it was. */
  attempt<T>(run: () => T | null): T | null {
    const at = this.at;
    const found = run();
    if (found === null) this.at = at;
    return found;
  }

  /** The longest run of words here that stands for something. */
  longest<T>(means: (name: string) => T | undefined): T | undefined {
    for (let length = LONGEST_NAME; length > 0; length -= 1) {
      const words = Array.from({ length }, (_, step) => this.word(step));
      if (words.includes('') || words.includes(',')) continue;
      const found = means(words.join(' '));
      if (found === undefined) continue;
      this.at += length;
      return found;
    }
    return undefined;
  }

  /** How many words the longest of these takes here. */
  lengthOf(phrases: ReadonlyMap<string, { words: Sequence }[]>): number {
    return phrases.get(this.word())?.find(({ words }) => this.matches(words))?.words.length ?? 0;
  }

  /** Values parted by `or`. */
  values(read: () => string | null): string[] {
    const found: string[] = [];
    do {
      const value = this.attempt(read);
      if (value === null) {
        if (found.length > 0) this.at -= 1;
        break;
      }
      found.push(value);
    } while (this.word() !== '' && this.word(1) !== 'else' && this.takes('or'));
    return found;
  }

  /** A quoted text, or bare words up to what parts sentences. */
  text(): string | null {
    const token = this.tokens[this.at];
    if (!token) return null;
    if (token.quoted) {
      this.at += 1;
      return token.text;
    }
    const words: string[] = [];
    while (this.word() !== '' && !PARTING.has(this.word()) && !/^[,()]$/.test(this.word())) {
      words.push(this.tokens[this.at]!.text);
      this.at += 1;
    }
    return words.length > 0 ? words.join(' ') : null;
  }

  amount(): number | null {
    const text = this.word();
    const word = NUMBERS.indexOf(text);
    const value = word > 0 ? word : text === '' ? NaN : Number(text);
    if (!Number.isFinite(value)) return null;
    this.at += 1;
    return value;
  }
}
