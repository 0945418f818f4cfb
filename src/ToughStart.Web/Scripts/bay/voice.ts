/** Says aloud what is next, for whoever cannot look: only with a voice that lives on the phone. */
const WORDS = { warn: "Soon to rinse", now: "Rinse now", dried: "It has dried" };
const KEY = "bay-voice";

export class Voice {
  private on = localStorage.getItem(KEY) === "on";
  private said = "";

  private own: SpeechSynthesisVoice | undefined;

  constructor() {
    // Voices come late, and are asked for only then: asking is slow.
    window.speechSynthesis?.addEventListener("voiceschanged", () => {
      this.own = window.speechSynthesis.getVoices().find((v) => v.localService && v.lang.startsWith("en"));
    });
  }

  get state(): "on" | "off" | "none" {
    return this.own === undefined ? "none" : this.on ? "on" : "off";
  }

  toggle(): void {
    this.on = !this.on;
    localStorage.setItem(KEY, this.on ? "on" : "off");
    this.said = "";
    if (!this.on) window.speechSynthesis?.cancel();
  }

  /** What a screen says, once. */
  say(parts: readonly (Element | null)[]): void {
    const words = parts.map((p) => p?.textContent ?? "").filter((w) => w !== "").join(". ");
    if (words === this.said) return;
    this.said = words;
    this.speak(words, false);
  }

  alarm(which: keyof typeof WORDS, where: string): void {
    this.speak(`${WORDS[which]}: ${where}`, true);
  }

  private speak(words: string, urgent: boolean): void {
    const voice = this.own;
    if (!this.on || !voice) return;
    if (urgent) window.speechSynthesis.cancel();
    const said = new SpeechSynthesisUtterance(words);
    said.voice = voice;
    window.speechSynthesis.speak(said);
  }
}
