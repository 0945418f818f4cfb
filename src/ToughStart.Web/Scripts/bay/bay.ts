import { canBeUndone, type Body, type Entry, type Kind } from "../live/log";
import { Alarm, Awake, type Sound } from "./alarm";
import * as flow from "./flow";
import type { listen } from "./hub";
import { hold, keepPage } from "./keep";
import { Run } from "./run";
import { press } from "./text";
import * as view from "./view";
import { Voice } from "./voice";

/** Twice within so much is once; a touch shorter than that, or of many fingers, is spray. */
const TWICE_MS = 400;
const SPRAY_MS = 40;
const FINGERS = 2;
const TICK_MS = 1000;
/** Alarms come again until somebody answers. */
const AGAIN_MS: Record<Sound, number> = { warn: 60_000, look: 10_000, now: 8000, dried: 15_000 };

const root = document.querySelector<HTMLElement>("[data-bay]")!;
const part = (name: string): HTMLElement => root.querySelector<HTMLElement>(`[data-part="${name}"]`)!;
const job = Number(root.dataset.bay);
const alarm = new Alarm();
const awake = new Awake();
const voice = new Voice();
const run = new Run(job, root.dataset.csrf ?? "", () => draw());
let choice: view.Choice = { ...view.NO_CHOICE };
let shown: Record<string, string> = {};
let last = { what: "", at: 0 };
let busy = false;
let touched = 0;
let fingers = 0;
const rung: Partial<Record<string, { sound: Sound; at: number }>> = {};

function scene(): view.Scene | null {
  if (!run.doc) return null;
  const clock = run.clock.now();
  // What is not known for sure is taken as later than it may be.
  const now = Math.round(clock.at + (Number.isFinite(clock.error) ? clock.error : 0));
  const me = run.doc.me.who;
  return {
    doc: run.doc,
    state: run.state,
    task: ahead(flow.taskOf(run.doc, run.state, me)),
    choice,
    now,
    dated: run.clock.dated || run.offlineSince === null,
    link: run.link,
    waiting: run.waiting,
    aside: run.aside.length,
    offlineSince: run.offlineSince,
    mute: alarm.mute,
    awake: awake.held,
    voice: voice.state,
    newer: run.doc.build !== root.dataset.build,
    width: Math.min(760, root.clientWidth || 390),
    busy,
  };
}

/** The next part may be begun while one works, if somebody wants that. */
function ahead(task: flow.Task): flow.Task {
  if (task.phase !== "dwell" || !choice.ahead || !run.doc || !task.step) return task;
  const next = nextSection(task);
  return next ? { ...task, phase: "apply", pieces: next } : task;
}

function nextSection(task: flow.Task): string[] | null {
  const step = task.step!;
  return flow.sectionsOf(step).find((s) => s.every((p) => flow.needOf(run.doc!, run.state, step, p) === "round")) ?? null;
}

function put(name: string, html: string): void {
  if (shown[name] === html) return;
  shown[name] = html;
  const place = part(name);
  const focused = document.activeElement instanceof HTMLElement && place.contains(document.activeElement)
    ? document.activeElement.dataset.do + "/" + (document.activeElement.dataset.word ?? document.activeElement.dataset.piece ?? "")
    : null;
  place.innerHTML = html;
  place.hidden = html === "";
  if (focused) {
    for (const b of place.querySelectorAll<HTMLElement>("[data-do]")) {
      if (b.dataset.do + "/" + (b.dataset.word ?? b.dataset.piece ?? "") === focused) b.focus();
    }
  }
}

function draw(): void {
  const s = scene();
  if (!s) return;
  put("header", view.header(s));
  put("lines", view.lines(s));
  put("offer", view.offer(s));
  put("main", view.main(s));
  put("said", view.said(s, run.aside[0]?.aside));
  put("sheet", view.sheet(s));
  const next = view.nextWords(s);
  put("next", `<b>${next.words}</b><span>${next.small}</span>`);
  const button = part("next") as HTMLButtonElement;
  button.disabled = !next.can;
  button.dataset.what = next.what;
  const mine = lastOwn();
  const undo = part("undo") as HTMLButtonElement;
  undo.disabled = mine === null;
  put("side", side(s));
  const urgent = flow.openLines(s.state).map((o) => flow.urgencyOf(o.line, s.now));
  root.dataset.urgency = urgent.includes("dried") ? "dried" : urgent.includes("now") ? "now" : urgent.includes("warn") ? "warn" : "calm";
  root.dataset.phase = s.task.phase;
  void hold(s.state.started !== null && s.state.closed === null && s.doc.station !== "closed");
  voice.say([part("main").querySelector("h1"), part("main").querySelector(".bay-what"), part("main").querySelector(".bay-where")]);
  document.title = `${next.words} · ${s.doc.vehicle}`;
}

function side(s: view.Scene): string {
  if (!s.doc.me.mayEdit || s.task.phase === "start" || s.task.phase === "end") return "";
  const parts = [press("sheet", "More", { word: "more" })];
  if (s.task.phase === "dwell") {
    // What the big button does not do.
    parts.push(view.isDried(s) ? press("rinse", "Rinsed as it is") : press("rewet", "Wet again"));
    if (nextSection(s.task)) parts.push(press("ahead", "Next part meanwhile"));
  }
  if (choice.ahead) parts.push(press("back", "Back to what is wet"));
  return parts.join("");
}

function lastOwn(): Entry | null {
  const who = run.doc?.me.who;
  return Object.values(run.state.entries)
    .filter((e) => e.who === who && canBeUndone(e.kind) && e.kind !== "taken" && run.state.undone[e.id] === undefined)
    .reduce<Entry | null>((a, e) => (a === null || (e.number ?? 0) > (a.number ?? 0) ? e : a), null);
}

function ring(): void {
  const s = scene();
  if (!s) return;
  for (const section of flow.openSections(s.state)) {
    const urgency = s.dated ? flow.urgencyOf(section.line, s.now) : "look";
    if (urgency === "calm" || urgency === "worked") continue;
    const before = rung[section.line.last];
    if (before && before.sound === urgency && Date.now() - before.at < AGAIN_MS[urgency]) continue;
    rung[section.line.last] = { sound: urgency, at: Date.now() };
    alarm.sound(urgency);
    if (urgency !== "look") voice.alarm(urgency, flow.wordsOf(s.doc, section.pieces));
  }
}

async function say(kind: Kind, body: Body): Promise<void> {
  await run.say(kind, body);
}

/** Whoever does something at a step has taken it. */
async function take(s: view.Scene): Promise<void> {
  const step = s.task.step;
  if (step && s.state.crew[s.doc.me.who]?.step !== step.key) await say("taken", { step: step.key, zones: s.task.pieces });
}

async function rewet(s: view.Scene, pieces: string[], treatment: string): Promise<void> {
  const step = s.doc.steps.find((x) => x.treatment === treatment);
  const win = step ? flow.windowOf(s.doc, step, pieces, s.now) : null;
  if (win) await say("rewetted", { treatment, zones: pieces, win, step: step!.key });
}

async function next(s: view.Scene, what: string): Promise<void> {
  const { task, doc } = s;
  const step = task.step;
  switch (what) {
    case "start":
      return decide({ kind: "started", hash: doc.plan > 0 ? undefined : doc.hash });
    case "resume":
      return say("resumed", { of: Object.keys(s.state.stops) });
    case "cautioned":
      await take(s);
      return say("cautioned", { cautions: [...task.kit.map(flow.kitId), ...task.cautions.map((c) => c.id)] });
    case "applied": {
      await take(s);
      const win = flow.windowOf(doc, step!, task.pieces, s.now);
      if (!win) return;
      const pour = flow.pourOf(step!, task.pieces);
      await say("applied", {
        step: step!.key,
        treatment: step!.treatment,
        zones: task.pieces,
        round: task.round,
        strength: step!.strength,
        product: step!.product,
        mix: step!.bottle?.mix ?? undefined,
        ml: Math.round(pour.neat),
        win,
      });
      choice.ahead = false;
      return;
    }
    case "rewet":
      return rewet(s, task.pieces, step!.treatment);
    case "rinsed":
      return say("rinsed", { zones: task.pieces, step: step!.key });
    case "worked": {
      await take(s);
      const wet = task.pieces.filter((p) => Object.keys(s.state.zones[p]?.lines ?? {}).length > 0);
      if (step!.water && wet.length > 0) await say("rinsed", { zones: wet, step: step!.key });
      const pour = flow.pourOf(step!, task.pieces);
      return say("worked", {
        step: step!.key,
        treatment: step!.treatment,
        zones: task.pieces,
        round: task.round,
        strength: step!.water ? undefined : step!.strength,
        product: step!.water ? undefined : step!.product,
        mix: step!.water ? undefined : (step!.bottle?.mix ?? undefined),
        ml: step!.water ? undefined : Math.round(pour.neat),
      });
    }
    case "seen": {
      const answer = step!.until!.answers.find((a) => a.word === choice.answer)!;
      const zones = task.pieces.filter((p) => !choice.off.includes(p));
      await say("seen", {
        step: step!.key,
        zones,
        observe: answer.look,
        result: answer.word,
        because: choice.because ?? undefined,
      });
      choice = { ...view.NO_CHOICE };
      return;
    }
    case "yard":
      location.href = "/";
      return;
    default:
      return;
  }
}

async function undo(entry: Entry | null): Promise<void> {
  if (entry) await say("undone", { of: [entry.id] });
}

async function act(what: string, data: DOMStringMap): Promise<void> {
  const s = scene();
  if (!s) return;
  const word = data.word ?? "";
  choice.said = null;
  if (what !== "sheet" && what !== "line" && what !== "reading" && what !== "gauge") choice.sheet = null;
  switch (what) {
    case "next":
      await next(s, data.what ?? "");
      break;
    case "undo": {
      const entry = lastOwn();
      if (entry?.kind === "applied") choice.sheet = "undo";
      else await undo(entry);
      break;
    }
    case "undo-sure":
      await undo(lastOwn());
      break;
    case "sheet":
      choice.sheet = word as view.Choice["sheet"];
      break;
    case "line":
      choice.piece = data.piece ?? null;
      choice.sheet = "line";
      break;
    case "rinse-line":
    case "rewet-line": {
      const section = flow.openSections(s.state).find((o) => o.pieces.includes(choice.piece ?? ""));
      if (section && what === "rinse-line") await say("rinsed", { zones: section.pieces });
      if (section && what === "rewet-line") await rewet(s, section.pieces, section.treatment);
      break;
    }
    case "rewet":
      if (s.task.step) await rewet(s, s.task.pieces, s.task.step.treatment);
      break;
    case "rinse":
      await next(s, "rinsed");
      break;
    case "ahead":
      choice.ahead = true;
      break;
    case "back":
      choice.ahead = false;
      break;
    case "answer":
      choice.answer = word;
      choice.because = null;
      break;
    case "because":
      choice.because = word;
      break;
    case "piece": {
      const pieces = (data.piece ?? "").split(" ");
      const off = choice.off.filter((p) => !pieces.includes(p));
      choice.off = pieces.some((p) => choice.off.includes(p)) ? off : [...off, ...pieces];
      break;
    }
    case "happened":
      await say("happened", { what: word, zones: word === "dried-on" || word === "mark" ? s.task.pieces : undefined });
      break;
    case "skip":
      if (s.task.step) await say("skipped", { step: s.task.step.key, zones: s.task.pieces, reason: word });
      break;
    case "pause":
      await say("paused", { reason: "pause" });
      break;
    case "unpause":
      await say("resumed", { of: Object.keys(s.state.paused) });
      break;
    case "hand":
      await say("left", { step: s.task.step?.key });
      choice.said = "Handed over: whoever takes the step next goes on with it.";
      break;
    case "take-step":
      await say("taken", { step: word });
      break;
    case "gauge":
      await gauge(s);
      break;
    case "reading":
      await measured(s, Number(word));
      break;
    case "voice":
      voice.toggle();
      break;
    case "newer":
      // Only over a dry vehicle; what waits is kept, and goes on with the new page.
      if (flow.openLines(s.state).length > 0) break;
      await hold(false);
      location.reload();
      break;
    case "try":
      await alarm.wake();
      await awake.hold();
      for (const [i, sound] of (["warn", "now", "dried"] as const).entries()) setTimeout(() => alarm.sound(sound), i * 1500);
      root.classList.add("is-trying");
      setTimeout(() => root.classList.remove("is-trying"), 4500);
      break;
    case "take":
      await decide({ kind: "replanned", answer: "take", hash: s.doc.offer?.hash });
      break;
    case "refuse":
      await decide({ kind: "replanned", answer: "refuse", hash: s.doc.offer?.hash });
      break;
    default:
      break;
  }
  draw();
}

/** One reading of the thermometer that the server knows; a simulated one is shipped. */
async function gauge(s: view.Scene): Promise<void> {
  const zone = s.task.pieces[0]?.split(":")[0];
  if (!zone) return;
  await new Promise<void>((done) => {
    const stream = new EventSource(`/api/v1/jobs/${job}/gauges/temperature?zone=${encodeURIComponent(zone)}`);
    const stop = (): void => {
      stream.close();
      done();
    };
    const limit = setTimeout(stop, 5000);
    stream.onmessage = (e) => {
      clearTimeout(limit);
      stop();
      void measured(s, (JSON.parse(e.data as string) as { value: number }).value);
    };
    stream.onerror = stop;
  });
}

async function measured(s: view.Scene, celsius: number): Promise<void> {
  choice.sheet = null;
  // One panel was measured, and only its own line may be lengthened by it.
  await say("measured", { what: "panel", value: Math.round(celsius * 10) / 10, zones: s.task.pieces.slice(0, 1) });
  choice.said = `${celsius} °C written down: every line there is reckoned anew.`;
}

/** A decision of the server's; nothing else can be pressed meanwhile. */
async function decide(body: Record<string, unknown>): Promise<void> {
  busy = true;
  draw();
  choice.said = await run.decide(body);
  busy = false;
}

/** The same thing twice in a moment is once. */
function once(what: string): boolean {
  const now = performance.now();
  if (last.what === what && now - last.at < TWICE_MS) return false;
  last = { what, at: now };
  return true;
}

root.addEventListener("pointerdown", (e) => {
  fingers = e.isPrimary ? 1 : fingers + 1;
  touched = performance.now();
  if (alarm.mute) void alarm.wake().then(draw);
  if (!awake.held) void awake.hold();
});
root.addEventListener("click", (e) => {
  const target = (e.target as Element).closest<HTMLElement>("[data-do]");
  if (!target || (target as HTMLButtonElement).disabled) return;
  const byTouch = e instanceof PointerEvent && e.pointerType === "touch";
  if (byTouch && (fingers > FINGERS || performance.now() - touched < SPRAY_MS)) return;
  const what = target.dataset.do!;
  if (once(`${what}/${target.dataset.word ?? target.dataset.piece ?? target.dataset.what ?? ""}`)) void act(what, target.dataset);
});
/** A presenter's remote: next = done, previous = undo, black = wet again. */
const KEYS: Record<string, string> = {
  PageDown: "next",
  ArrowRight: "next",
  Enter: "next",
  PageUp: "undo",
  ArrowLeft: "undo",
  b: "rewet",
  ".": "rewet",
};
document.addEventListener("keydown", (e) => {
  if (e.repeat || e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.target instanceof HTMLElement && e.target.dataset.do && (e.key === "Enter" || e.key === " ")) return;
  if (e.key === "Escape" && choice.sheet) {
    choice.sheet = null;
    draw();
    return;
  }
  const what = KEYS[e.key];
  if (!what) return;
  e.preventDefault();
  const button = part("next") as HTMLButtonElement;
  if (what === "next" && button.disabled) return;
  if (once(what)) void act(what, what === "next" ? button.dataset : {});
});

async function begin(): Promise<void> {
  await run.open();
  draw();
  document.documentElement.dataset.ready = "yes";
  performance.mark("ready");
  setInterval(() => {
    run.clock.tick();
    ring();
    if (document.visibilityState === "visible") draw();
  }, TICK_MS);
  if ("serviceWorker" in navigator) {
    void navigator.serviceWorker.register("/dist/worker.js", { scope: "/" });
    void keepPage();
  }
  // What only hears of others comes after what one needs to begin.
  addEventListener("hub", (e) => {
    const hub = (e as CustomEvent<typeof listen>).detail;
    void hub(["Join", job], (of, number) => {
      if (of === job && number > run.state.number - run.waiting) void run.sync();
    });
  });
  const script = document.createElement("script");
  script.src = root.dataset.hub!;
  document.head.append(script);
}

addEventListener("resize", () => {
  shown = {};
  draw();
});
void begin();
