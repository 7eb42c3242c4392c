import { PlainPace, type Pace } from '$lib/time/clock.svelte';

/** The sound of a clip as the clock of playing: pictures and marks follow it, so that they never drift from it. */
export class SoundPace implements Pace {
  #audio: HTMLAudioElement | null = null;
  #plain = new PlainPace();
  #plays = false;
  #muted = false;

  constructor(private readonly path: () => string | null) {}

  get muted(): boolean {
    return this.#muted;
  }
  set muted(on: boolean) {
    this.#muted = on;
    if (this.#audio) this.#audio.muted = on;
  }
  async start(at: number, speed: number): Promise<void> {
    this.#plays = false;
    this.#plain.start(at, speed);
    const path = this.path();
    if (path === null) return;
    const audio = (this.#audio ??= this.#open(path));
    audio.playbackRate = speed;
    audio.currentTime = at;
    try {
      await audio.play();
      this.#plays = true;
    } catch {
      // the browser lets no sound be heard, or it can't be loaded: the clip is played without
      this.#plain.start(at, speed);
    }
  }
  #open(path: string): HTMLAudioElement {
    const audio = new Audio(path);
    audio.preload = 'auto';
    audio.preservesPitch = true;
    audio.muted = this.#muted;
    return audio;
  }
  stop(): void {
    this.#plays = false;
    this.#audio?.pause();
  }
  now(): number {
    const audio = this.#audio;
    if (!this.#plays || !audio) return this.#plain.now();
    // the pictures may go on longer than the sound
    if (!audio.ended) {
      this.#plain.start(audio.currentTime, audio.playbackRate);
      return audio.currentTime;
    }
    return this.#plain.now();
  }
  close(): void {
    this.stop();
    this.#audio?.removeAttribute('src');
    this.#audio?.load();
    this.#audio = null;
  }
}
