/** Alarms differ by ear, by hand and by eye, and go on until somebody answers. */
export type Sound = "warn" | "now" | "dried" | "look";

const TUNES: Record<Sound, { notes: [number, number][]; shake: number[] }> = {
  warn: { notes: [[660, 0.12]], shake: [120] },
  look: { notes: [[520, 0.1], [520, 0.1]], shake: [80, 80, 80] },
  now: { notes: [[880, 0.18], [660, 0.18], [880, 0.18], [660, 0.18]], shake: [300, 100, 300, 100, 300] },
  dried: { notes: [[330, 0.35], [262, 0.5]], shake: [700, 150, 700] },
};

export class Alarm {
  private audio: AudioContext | null = null;

  /** A page is mute until it was touched once. */
  get mute(): boolean {
    return this.audio === null || this.audio.state !== "running";
  }

  /** Called from a touch: only then a page may make a sound. */
  async wake(): Promise<void> {
    this.audio ??= new AudioContext();
    await this.audio.resume();
  }

  sound(which: Sound): void {
    const tune = TUNES[which];
    if (navigator.userActivation?.hasBeenActive) navigator.vibrate?.(tune.shake);
    if (!this.audio || this.audio.state !== "running") return;
    let at = this.audio.currentTime + 0.02;
    for (const [hertz, seconds] of tune.notes) {
      const tone = this.audio.createOscillator();
      const loud = this.audio.createGain();
      tone.type = "square";
      tone.frequency.value = hertz;
      loud.gain.setValueAtTime(0.25, at);
      loud.gain.setValueAtTime(0, at + seconds);
      tone.connect(loud).connect(this.audio.destination);
      tone.start(at);
      tone.stop(at + seconds);
      at += seconds + 0.05;
    }
  }
}

/** Keeps the screen on; says whether it does. */
export class Awake {
  private lock: WakeLockSentinel | null = null;

  get held(): boolean {
    return this.lock !== null && !this.lock.released;
  }

  async hold(): Promise<void> {
    try {
      this.lock = (await navigator.wakeLock?.request("screen")) ?? null;
    } catch {
      this.lock = null;
    }
  }
}
