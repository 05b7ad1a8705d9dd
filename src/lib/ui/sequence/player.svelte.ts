import { frameAt, middleOf } from '#core/footage/frames';
import { isCut, lengthOf, placeAt, startsOf } from '#core/footage/sequence';
import type { ShownPiece, ShownSequence } from '#core/wire/sequences';
import { FrameTimesOf } from './frames';

/** Seconds before the end of a piece at which the next one takes over: it is shown by the next picture of the screen. */
const EARLY = 0.008;

type Side = 0 | 1;

/**
 * Plays a rough sequence from the proxies of its clips: while one piece is seen the next stands ready in a second
 * player, at its first frame, so that nothing is seen between them.
 */
export class SequencePlayer {
  sequence = $state.raw<ShownSequence | null>(null);
  /** Frame of the sequence that is seen. */
  frame = $state(0);
  plays = $state(false);
  /** Which of the two players is seen; null: a still, or nothing. */
  side = $state<Side | null>(null);
  videos: [HTMLVideoElement | undefined, HTMLVideoElement | undefined] = $state([
    undefined,
    undefined,
  ]);

  lengths = $derived(
    this.sequence
      ? this.sequence.pieces.map(({ piece, rate }) =>
          lengthOf(piece, rate ?? 1, this.sequence!.rate),
        )
      : [],
  );
  starts = $derived(startsOf(this.lengths));
  /** Frames of the whole. */
  count = $derived(this.starts.at(-1) ?? 0);
  place = $derived(placeAt(this.starts, this.frame));
  piece = $derived<ShownPiece | null>(this.sequence?.pieces[this.place.at] ?? null);

  readonly #times = new FrameTimesOf();
  /** What each player has been made ready for: the piece's id and where it stands. */
  readonly #ready: [string, string] = ['', ''];
  #loop = 0;
  #held: { since: number; frame: number } | null = null;

  /** Frame of its clip that is seen so far into a piece. */
  #clipFrame({ piece, rate }: ShownPiece, into: number): number {
    if (!isCut(piece) || rate === null || !this.sequence) return 0;
    return Math.min(
      piece.to - 1,
      piece.from + Math.floor((into * rate) / this.sequence.rate + 1e-6),
    );
  }
  /** Frame of its clip that is seen now; null of stills and gaps. */
  clipFrame = $derived(
    this.piece && isCut(this.piece.piece) ? this.#clipFrame(this.piece, this.place.into) : null,
  );

  async #secondsOf(shown: ShownPiece, frame: number): Promise<number> {
    const times = await this.#times.of(shown.piece.item!);
    return times ? middleOf(times, frame) : (frame + 0.5) / (shown.rate ?? 25);
  }
  async #endOf(shown: ShownPiece): Promise<number> {
    if (!isCut(shown.piece)) return 0;
    const { to } = shown.piece;
    const times = await this.#times.of(shown.piece.item);
    return times ? (times[to] ?? Infinity) : to / (shown.rate ?? 25);
  }

  /** Put one of the two players to a frame of a piece. */
  async #prepare(side: Side, shown: ShownPiece, into: number): Promise<void> {
    const video = this.videos[side];
    if (!video || !isCut(shown.piece)) return;
    const frame = this.#clipFrame(shown, into);
    const what = `${shown.piece.id} ${frame}`;
    if (this.#ready[side] === what) return;
    this.#ready[side] = what;
    const seconds = await this.#secondsOf(shown, frame);
    if (this.#ready[side] !== what) return;
    const src = `/api/items/${shown.piece.item}/media`;
    if (video.dataset['src'] !== src) {
      video.dataset['src'] = src;
      video.src = src;
    }
    video.pause();
    video.muted = !this.sequence?.sound;
    await new Promise<void>((done) => {
      const over = (): void => done();
      video.addEventListener('seeked', over, { once: true });
      video.addEventListener('error', over, { once: true });
      video.currentTime = seconds;
    });
  }

  /** Show a frame of the sequence. */
  goTo(wished: number): void {
    this.#halt();
    this.frame = Math.min(Math.max(Math.round(wished), 0), Math.max(0, this.count - 1));
    void this.#show();
  }
  async #show(): Promise<void> {
    const { piece, place } = this;
    if (!piece) return void (this.side = null);
    if (!isCut(piece.piece)) return void (this.side = null);
    const side = this.side ?? 0;
    await this.#prepare(side, piece, place.into);
    if (this.piece?.piece.id === piece.piece.id) this.side = side;
  }
  step(by: number): void {
    this.goTo(this.frame + by);
  }

  #halt(): void {
    cancelAnimationFrame(this.#loop);
    this.plays = false;
    this.#held = null;
    for (const video of this.videos) video?.pause();
  }
  toggle(): void {
    if (this.plays) {
      // What is seen is what is named.
      const { frame } = this;
      this.#halt();
      this.goTo(frame);
    } else void this.play();
  }

  async play(): Promise<void> {
    if (this.count === 0) return;
    if (this.frame >= this.count - 1) this.frame = 0;
    this.plays = true;
    await this.#begin(this.place.at, this.place.into);
  }

  /** Let a piece run, and make ready the one behind it. */
  async #begin(at: number, into: number): Promise<void> {
    const shown = this.sequence?.pieces[at];
    if (!shown || !this.plays) return this.#halt();
    if (isCut(shown.piece) && !shown.missing) {
      const what = `${shown.piece.id} ${this.#clipFrame(shown, into)}`;
      const side: Side =
        this.#ready[0] === what ? 0 : this.#ready[1] === what ? 1 : this.side === 0 ? 1 : 0;
      await this.#prepare(side, shown, into);
      const video = this.videos[side];
      if (!this.plays || !video) return;
      this.#ready[side] = '';
      video.muted = !this.sequence?.sound;
      const other = this.side;
      await video.play().catch(() => undefined);
      this.side = side;
      if (other !== null && other !== side) this.videos[other]?.pause();
      const end = await this.#endOf(shown);
      this.#run(at, shown, { video, end });
    } else {
      for (const video of this.videos) video?.pause();
      this.side = null;
      this.#held = { since: performance.now(), frame: into };
      this.#run(at, shown, null);
    }
    const next = this.sequence?.pieces[at + 1];
    const idle: Side = this.side === 0 ? 1 : 0;
    if (next && isCut(next.piece)) await this.#prepare(idle, next, 0);
  }

  #run(at: number, shown: ShownPiece, cut: { video: HTMLVideoElement; end: number } | null): void {
    cancelAnimationFrame(this.#loop);
    const { rate } = this.sequence!;
    const length = this.lengths[at] ?? 1;
    const times = cut ? this.#times.now(shown.piece.item!) : null;
    const look = (): void => {
      if (!this.plays) return;
      let into: number;
      let isOver: boolean;
      if (cut && isCut(shown.piece)) {
        const { currentTime, ended, error } = cut.video;
        const own = times
          ? frameAt(times, currentTime)
          : Math.floor(currentTime * (shown.rate ?? 25) + 1e-6);
        into = Math.floor(((own - shown.piece.from) / (shown.rate ?? 25)) * rate + 1e-6);
        isOver = ended || error !== null || currentTime >= cut.end - EARLY;
      } else {
        const { since, frame } = this.#held!;
        into = frame + Math.floor(((performance.now() - since) / 1000) * rate);
        isOver = into >= length;
      }
      if (!isOver) {
        this.frame = this.starts[at]! + Math.min(Math.max(into, 0), length - 1);
        this.#loop = requestAnimationFrame(look);
        return;
      }
      if (at + 1 >= this.lengths.length) {
        this.#halt();
        this.goTo(this.count - 1);
        return;
      }
      this.frame = this.starts[at + 1]!;
      void this.#begin(at + 1, 0);
    };
    this.#loop = requestAnimationFrame(look);
  }

  /** Its pieces changed: what stood ready may be another by now. */
  take(sequence: ShownSequence): void {
    this.sequence = sequence;
    this.#ready[0] = this.#ready[1] = '';
    this.frame = Math.min(this.frame, Math.max(0, this.count - 1));
    if (!this.plays) void this.#show();
  }
  end(): void {
    this.#halt();
  }
}
