import type { Moment } from "../live/log";

/** Wall and page clock part by so much: the machine slept. */
const PARTED_MS = 2000;
/** The heartbeat missed so much: the page slept. */
const MISSED_MS = 5000;
/** Quartz drifts. */
const DRIFT = 200e-6;

/**
 * Server time on a phone. Its own clock is never believed: an answer of the server dates the page's clock, and a page that slept, or was
 * loaded anew, begins a new epoch that nothing has dated yet.
 */
export class Clock {
  epoch = crypto.randomUUID();
  private offset: number | null = null;
  private error = Infinity;
  private sampledAt = 0;
  private beat = { mono: performance.now(), wall: Date.now() };

  constructor(private readonly onEpoch: () => void = () => undefined) {}

  mono(): number {
    return Math.round(performance.now());
  }

  /** An answer said what time it is; it was asked at one and came at another moment of the page's clock. */
  sample(server: number, asked: number, came: number): void {
    const error = (came - asked) / 2 + 2;
    if (error <= this.errorAt(came)) {
      this.offset = server - (asked + came) / 2;
      this.error = error;
      this.sampledAt = came;
    }
  }

  /** Has the server been heard since this epoch began? */
  get dated(): boolean {
    return this.offset !== null;
  }

  private errorAt(mono: number): number {
    return this.error + Math.abs(mono - this.sampledAt) * DRIFT;
  }

  /** Server time now, and how far it may be off; a guess of the wall clock while nothing has dated it. */
  now(): { at: number; error: number } {
    const mono = performance.now();
    return this.offset === null
      ? { at: Date.now(), error: Infinity }
      : { at: mono + this.offset, error: this.errorAt(mono) };
  }

  /** When a moment of this epoch was, in server time; null while nothing has dated it. */
  claim(mono: number): Moment | null {
    if (this.offset === null) return null;
    const [at, error] = [Math.round(mono + this.offset), Math.ceil(this.errorAt(mono)) + 1];
    return { at, lo: at - error, hi: at + error };
  }

  /** Once a second: finds out whether anything slept. */
  tick(): void {
    const now = { mono: performance.now(), wall: Date.now() };
    const [mono, wall] = [now.mono - this.beat.mono, now.wall - this.beat.wall];
    this.beat = now;
    if (mono > MISSED_MS || Math.abs(wall - mono) > PARTED_MS) {
      this.epoch = crypto.randomUUID();
      this.offset = null;
      this.error = Infinity;
      this.onEpoch();
    }
  }
}
