const KEY = 'mindful-close';
const DEFAULTS = { strip: true, tones: false, lost: false, checked: false, seconds: 4 };
type Choices = typeof DEFAULTS;

/** What one likes to see beside a picture, remembered in this browser. */
class SeenBeside {
  #choices = $state<Choices>({ ...DEFAULTS });

  constructor() {
    if (typeof localStorage === 'undefined') return;
    try {
      const found = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, unknown>;
      for (const key of Object.keys(DEFAULTS) as (keyof Choices)[])
        if (typeof found[key] === typeof DEFAULTS[key])
          Object.assign(this.#choices, { [key]: found[key] });
    } catch {
      // What another version kept is forgotten.
    }
  }
  #set(choice: Partial<Choices>): void {
    Object.assign(this.#choices, choice);
    localStorage.setItem(KEY, JSON.stringify(this.#choices));
  }
  /** The strip of the present result. */
  get strip(): boolean {
    return this.#choices.strip;
  }
  set strip(strip: boolean) {
    this.#set({ strip });
  }
  /** The histogram. */
  get tones(): boolean {
    return this.#choices.tones;
  }
  set tones(tones: boolean) {
    this.#set({ tones });
  }
  /** Light that is lost is marked on the picture. */
  get lost(): boolean {
    return this.#choices.lost;
  }
  set lost(lost: boolean) {
    this.#set({ lost });
  }
  /** What shows through stands on a checked ground. */
  get checked(): boolean {
    return this.#choices.checked;
  }
  set checked(checked: boolean) {
    this.#set({ checked });
  }
  /** Each picture of a show stays this long, s. */
  get seconds(): number {
    return this.#choices.seconds;
  }
  set seconds(seconds: number) {
    this.#set({ seconds: Math.min(60, Math.max(1, seconds)) });
  }
}
export const kept = new SeenBeside();
