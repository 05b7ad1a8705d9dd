import type { Film } from '#core/footage/film';
import { frameAt, middleOf, timesOf } from '#core/footage/frames';
import { SOUND_RATE } from '#core/footage/span';
import { api } from '../common/api';
import { hear } from '../common/live';

/** Speeds of going through, times the clip's own; each press is one faster. */
const SPEEDS = [1, 2, 4, 8];
/** seconds; a sound is counted in frames of its own. */
const SOUND_STEP = 1 / SOUND_RATE;
/** seconds; a step where frames are not known yet. */
const BLIND_STEP = 0.04;

/** Footage or a sound that is played: the frame that is named is the one that is shown. */
export class Player {
  film = $state.raw<Film | null>(null);
  media = $state<HTMLMediaElement>();
  plays = $state(false);
  failed = $state(false);
  /** seconds */
  seconds = $state(0);
  length = $state(0);
  frame = $state(0);
  /** Times its own speed; below 0 backward, 0: it does not go through. */
  speed = $state(0);
  #backward = 0;

  times = $derived(this.film?.frames ? timesOf(this.film.frames, this.film.first) : null);
  /** Frames, of a sound hundredths of a second. */
  count = $derived.by(() => {
    if (this.times) return this.times.length;
    const seconds = this.film?.duration ?? this.length;
    // A browser does not know the length at first, and of some sounds never.
    return Number.isFinite(seconds) ? Math.max(1, Math.round(seconds / SOUND_STEP)) : 1;
  });

  /** Ask for what is known of its frames, until it is; ends with the returned function. */
  ask(id: string): () => void {
    this.film = null;
    this.frame = 0;
    let isOver = false;
    const once = (): void =>
      void api
        .get(`/api/items/${id}/film`)
        .then((found) => {
          if (!isOver && found) this.film = found;
        })
        .catch(() => undefined);
    once();
    const deaf = hear((message) => {
      if (message.about === 'items' && message.ids.includes(id) && !this.film) once();
    });
    return () => {
      isOver = true;
      this.stop();
      deaf();
    };
  }

  /** What the browser says it shows is what is named; ends with the returned function. */
  watch(): (() => void) | undefined {
    const video = this.media;
    if (!video) return;
    let ended = false;
    if (!(video instanceof HTMLVideoElement)) {
      const heard = (): void => {
        if (ended) return;
        if (!video.seeking) {
          this.seconds = video.currentTime;
          this.frame = Math.min(this.count - 1, Math.round(this.seconds / SOUND_STEP));
        }
        requestAnimationFrame(heard);
      };
      requestAnimationFrame(heard);
      return () => {
        ended = true;
      };
    }
    const seen = (_now: number, { mediaTime }: { mediaTime: number }): void => {
      if (ended) return;
      // What was shown before is not what was asked for meanwhile.
      if (!video.seeking) {
        if (this.times) this.frame = frameAt(this.times, mediaTime + 0.0005);
        this.seconds = mediaTime;
      }
      video.requestVideoFrameCallback(seen);
    };
    video.requestVideoFrameCallback(seen);
    return () => {
      ended = true;
    };
  }

  toggle(): void {
    if (!this.media) return;
    const goes = this.speed < 0 || !this.media.paused;
    this.stop();
    if (!goes) this.#play(1);
  }
  stop(): void {
    cancelAnimationFrame(this.#backward);
    this.speed = 0;
    this.media?.pause();
  }
  #play(speed: number): void {
    const { media } = this;
    if (!media) return;
    media.playbackRate = speed;
    this.speed = speed;
    void media.play().catch((error: unknown) => {
      // Paused or turned away from before it began is no fault of the file.
      this.failed = (error as DOMException).name === 'NotSupportedError';
      this.speed = 0;
    });
  }
  /** Faster forward; who goes backward goes forward. */
  forward(): void {
    const at = SPEEDS.indexOf(this.speed);
    cancelAnimationFrame(this.#backward);
    this.#play(SPEEDS[Math.min(at + 1, SPEEDS.length - 1)]!);
  }
  /** Faster backward: frame by frame, each shown before the next is asked for. */
  backward(): void {
    const at = SPEEDS.indexOf(-this.speed);
    cancelAnimationFrame(this.#backward);
    this.media?.pause();
    this.speed = -SPEEDS[Math.min(at + 1, SPEEDS.length - 1)]!;
    const began = { at: performance.now(), seconds: this.seconds };
    const { speed } = this;
    const back = (now: number): void => {
      const { media } = this;
      if (!media || this.speed !== speed) return;
      const wished = began.seconds + (speed * (now - began.at)) / 1000;
      if (!media.seeking) this.seekTo(wished);
      if (wished <= 0) return this.stop();
      this.#backward = requestAnimationFrame(back);
    };
    this.#backward = requestAnimationFrame(back);
  }

  /** The browser plays, or stands: at the end it stands by itself. */
  heed(): void {
    if (!this.media) return;
    this.plays = !this.media.paused;
    if (!this.plays && this.speed > 0) this.speed = 0;
  }

  /** Some frames on. */
  step(by: number): void {
    this.stop();
    if (this.times || !(this.media instanceof HTMLVideoElement)) this.goTo(this.frame + by);
    else this.media.currentTime += by * BLIND_STEP;
  }
  goTo(wished: number): void {
    if (!this.media) return;
    this.frame = Math.min(Math.max(Math.round(wished), 0), this.count - 1);
    this.media.currentTime = this.times
      ? middleOf(this.times, this.frame)
      : this.frame * SOUND_STEP;
    if (!this.times) this.seconds = this.frame * SOUND_STEP;
  }
  /** @param seconds from the beginning */
  seekTo(seconds: number): void {
    this.goTo(this.times ? frameAt(this.times, seconds) : seconds / SOUND_STEP);
  }
}
