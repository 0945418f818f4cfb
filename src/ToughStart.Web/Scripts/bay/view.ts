import type { Entry } from "../live/log";
import type { State } from "../live/reduce";
import { rinseBy, type Line } from "../live/zone";
import type { Doc, Step } from "./document";
import * as flow from "./flow";
import { lineSvg } from "./lines";
import { capital, el, esc, lower, press } from "./text";

/** What a screen shows, as text: the same document, state and moment give the same screen. */

/** What somebody chose on this phone and has not said yet. */
export interface Choice {
  answer: string | null;
  because: string | null;
  off: string[];
  sheet: "more" | "trouble" | "skip" | "reading" | "steps" | "undo" | "line" | "code" | null;
  piece: string | null;
  ahead: boolean;
  said: string | null;
}

export const NO_CHOICE: Choice = { answer: null, because: null, off: [], sheet: null, piece: null, ahead: false, said: null };

export interface Scene {
  doc: Doc;
  state: State;
  task: flow.Task;
  choice: Choice;
  now: number;
  dated: boolean;
  link: string;
  waiting: number;
  aside: number;
  offlineSince: number | null;
  mute: boolean;
  awake: boolean;
  voice: "on" | "off" | "none";
  /** The server has a newer build than this page. */
  newer: boolean;
  width: number;
  busy: boolean;
}

const TITLES: Record<Step["look"], string> = { foam: "Foam it on", iron: "Spray it on", gel: "Lay it on", film: "Put it on" };

/** Nobody knows when it dries. */
const UNKNOWN_MS = 24 * 3_600_000;
/** Films that are drawn; the others come later, and are counted. */
const MOST_LINES = 4;
const SKIPPED_BECAUSE = ["not needed here", "the client does not want it", "no time", "not safe here", "the tool is missing"];
/** Heats of a panel to choose from, °C. */
const HEATS = [10, 15, 20, 25, 30, 35, 40, 45, 50];

export function stepCount(s: Scene): string {
  if (s.task.phase === "start") return `${s.doc.steps.length} steps`;
  const at = s.task.step ? s.doc.steps.indexOf(s.task.step) + 1 : s.doc.steps.length;
  return `${at} of ${s.doc.steps.length}`;
}

export function linkWords(s: Scene): string {
  if (s.link === "sign-in") return "sign in to send";
  if (s.offlineSince !== null) {
    const at = new Date(s.offlineSince);
    return `offline since ${String(at.getHours()).padStart(2, "0")}:${String(at.getMinutes()).padStart(2, "0")}`;
  }
  return s.waiting > 0 ? `${s.waiting} waiting` : "live";
}

/** Behind the timeline by a few minutes: said, not shouted. */
function late(s: Scene): string {
  const minutes = flow.behind(s.doc, s.state, s.doc.me.who, s.now);
  return minutes >= LATE_FROM ? `, ${minutes} min late` : "";
}

/** Minutes behind from which it is said. */
const LATE_FROM = 3;

export function header(s: Scene): string {
  const [me] = (s.doc.people[s.doc.me.who] ?? s.doc.me.who).split(" ");
  return (
    el("a", "bay-out", "‹", `href="/jobs/${s.doc.job}/plan" aria-label="Back to the plan"`) +
    el("b", "", esc(s.doc.vehicle)) +
    el("span", "bay-count", stepCount(s) + late(s)) +
    el("span", `bay-link is-${s.offlineSince !== null ? "offline" : s.link}`, `${esc(me)} · ${esc(linkWords(s))}`)
  );
}

type View = [x: number, y: number, width: number, height: number];

/** The part of the net around some zones: enough to know where on the vehicle one is. */
function around(doc: Pick<Doc, "net">, zones: ReadonlySet<string>): View {
  const [bx, by, bw, bh] = doc.net.box;
  const boxes = doc.net.zones.filter((z) => zones.has(z.id)).map((z) => z.box);
  if (boxes.length === 0) return [bx - 0.1, by - 0.1, bw + 0.2, bh + 0.2];
  const x0 = Math.min(...boxes.map((b) => b[0]));
  const y0 = Math.min(...boxes.map((b) => b[1]));
  const x1 = Math.max(...boxes.map((b) => b[0] + b[2]));
  const y1 = Math.max(...boxes.map((b) => b[1] + b[3]));
  const w = Math.min(bw + 0.2, Math.max(x1 - x0 + 0.8, bw * 0.62));
  const h = Math.min(bh + 0.2, Math.max(y1 - y0 + 0.5, w * 0.5));
  const cx = Math.min(Math.max((x0 + x1) / 2, bx - 0.1 + w / 2), bx + bw + 0.1 - w / 2);
  const cy = Math.min(Math.max((y0 + y1) / 2, by - 0.1 + h / 2), by + bh + 0.1 - h / 2);
  return [cx - w / 2, cy - h / 2, w, h];
}

/** The net, lit where something is; drawn as near as that allows, or whole. */
export function netSvg(
  doc: Pick<Doc, "net" | "steps">,
  lit: readonly string[],
  look: Step["look"] | "plain",
  about: { late?: readonly string[]; whole?: boolean; words?: string } = {},
): string {
  const on = new Set(lit.map((p) => p.split(":")[0]));
  const late = new Set((about.late ?? []).map((p) => p.split(":")[0]));
  const clips: string[] = [];
  const zones = doc.net.zones
    .map((z) => {
      const cls = late.has(z.id) ? "late" : on.has(z.id) ? `lit lit-${look}` : z.glass ? "glass" : "";
      const parts = lit.filter((p) => p.startsWith(z.id + ":")).map((p) => p.split(":").map(Number));
      const shape = `d="${z.path}" fill-rule="evenodd" class="${cls}"`;
      if (parts.length === 0) return `<path ${shape}/>`;
      // Only the part that is worked is lit, counted from the front.
      const id = `part-${z.id}-${clips.length}`;
      const [x, y, w, h] = z.box;
      const bands = parts.map(([, k, m]) => `<rect x="${x + (w * (k - 1)) / m}" y="${y}" width="${w / m}" height="${h}"/>`);
      clips.push(`<clipPath id="${id}">${bands.join("")}</clipPath>`);
      return `<path d="${z.path}"/><path ${shape} clip-path="url(#${id})"/>`;
    })
    .join("");
  const view = around(doc, about.whole ? new Set() : on).map((n) => n.toFixed(2)).join(" ");
  const words = about.words ?? flow.wordsOf(doc, lit);
  return el("svg", "bay-net", `<defs>${clips.join("")}</defs>${zones}`, `viewBox="${view}" role="img" aria-label="${esc(words)}"`);
}

/** What the timeline says nobody will be at in time: one's own first, the others counted. What has dried says so by its line. */
function lateFilms(s: Scene): string {
  const open = flow.openSections(s.state);
  const late = (s.doc.turns?.late ?? [])
    .filter((l) => {
      const treatment = s.doc.steps.find((x) => x.key === l.step)?.treatment;
      return l.by > s.now && open.some((o) => o.treatment === treatment && o.pieces.some((p) => l.zones.includes(p.split(":")[0])));
    })
    .sort((a, b) => Number(b.who === s.doc.me.who) - Number(a.who === s.doc.me.who) || a.by - b.by);
  if (late.length === 0) return "";
  const [first] = late;
  const where = flow.wordsOf(s.doc, first.zones);
  const words =
    first.who === s.doc.me.who
      ? `<b>${esc(capital(where))}: rinse that first.</b> You are nearest, and it will be late.`
      : `<b>${esc(capital(where))}: mist it.</b> ${esc(s.doc.people[first.who] ?? first.who)} is nearest, and it will be late.`;
  return el("p", "bay-late", words + (late.length > 1 ? ` And ${late.length - 1} more.` : ""), 'role="alert"');
}

/** Films that are on, the most urgent large. */
export function lines(s: Scene): string {
  return lateFilms(s) + filmLines(s);
}

function filmLines(s: Scene): string {
  const open = flow.openSections(s.state);
  if (open.length === 0) return s.task.phase === "apply" ? ghost(s) : "";
  const drawn = open.slice(0, MOST_LINES).map((o, i) => {
    const step = s.doc.steps.find((x) => x.treatment === o.treatment);
    const words = `${flow.wordsOf(s.doc, o.pieces)}, ${step?.agentName ?? o.treatment}`;
    const who = o.who === s.doc.me.who ? "" : (s.doc.people[o.who] ?? o.who);
    const svg = lineSvg(o.line, step?.look ?? "film", s.now, words, who, s.width, i === 0);
    const said = el("span", "bay-line-words", esc(who ? `${words} · ${who}` : words));
    const inside = i === 0 ? plate(s, o.line) + said + svg : svg;
    return press("line", inside, { piece: o.pieces[0], cls: i === 0 ? "bay-line is-first" : "bay-line" });
  });
  const more = open.length - drawn.length;
  return drawn.join("") + (more > 0 ? el("p", "bay-more-lines", `and ${more} more, each later`) : "");
}

/** The digits of the most urgent film, and what they mean. */
function plate(s: Scene, line: Line): string {
  const [state, digits, words] = s.dated
    ? plateOf(line, s.now)
    : (["now", "look", "this phone was asleep: look at the panel"] as const);
  const lost = line.dried && state !== "dried" ? "it had dried, this round does not count. " : "";
  const perhaps = (line.perhaps ? "perhaps rinsed: look. " : "") + lost;
  return el("span", `plate is-${state}`, digits) + el("span", "plate-words", perhaps + words);
}

function plateOf(line: Line, now: number): readonly [state: string, digits: string, words: string] {
  const urgency = flow.urgencyOf(line, now);
  const left = flow.clockWords(rinseBy(line) - now);
  switch (urgency) {
    case "dried":
      return [urgency, "dried", "wet it again before you rinse; this round does not count"];
    case "now": {
      const dry = line.dry - now;
      const then = dry < UNKNOWN_MS / 2 ? `first dry spots in about ${flow.clockWords(dry)}` : "the label's time is over";
      return [urgency, "rinse", `no time left: ${then}`];
    }
    case "warn":
      return [urgency, left, "last quarter: rinse is next"];
    case "worked":
      return [urgency, left, "it has worked: rinse when you like"];
    default:
      return [urgency, left, `leave it ${flow.clockWords(line.first + line.dwell - now)} more`];
  }
}

/** How long it will stay, before it is on. */
function ghost(s: Scene): string {
  const win = flow.windowOf(s.doc, s.task.step!, s.task.pieces, s.now);
  if (!win) return "";
  const by = Math.min(win.usable, win.max);
  const dwell = flow.clockWords(win.dwell);
  const words =
    by < win.dwell ? `dries before it has worked: wet it again on the way, ${dwell} in all` : `leave it ${dwell}, then rinse`;
  const blind = win.dry >= UNKNOWN_MS ? "<br>no weather is known here: watch the film" : "";
  return el(
    "p",
    "bay-ghost",
    el("span", "plate is-ghost", flow.clockWords(by)) +
      el("span", "plate-words", `wet, from the last of it<br><b>${esc(words)}</b>${blind}`),
  );
}

function bottleWords(step: Step, pieces: readonly string[]): string {
  const { solution } = flow.pourOf(step, pieces);
  const amount = solution < 1 ? "" : `${solution < 20 ? solution.toFixed(0) : Math.round(solution / 5) * 5} ml`;
  const from = step.bottle ? step.bottle.name + (step.bottle.mix ? `, mix ${step.bottle.mix}` : "") : "";
  return esc([from, amount].filter((x) => x !== "").join(", "));
}

/** The bottle as it is told from the others across the bay: its colour, drawn and named where its name does not say it. */
function bottleMark(step: Step): string {
  const { colour = null, name = "" } = step.bottle ?? {};
  if (colour === null) return "";
  const shape = '<path d="M9 1h6v4l4 5v17q0 2-2 2H7q-2 0-2-2V10l4-5Z"/><path class="cap" d="M8 0h8v6H8z"/>';
  const said = name.toLowerCase().includes(colour) ? "" : `, ${colour}`;
  return el("svg", `bay-bottle is-${colour}`, shape, 'viewBox="0 0 24 30" aria-hidden="true"') + el("i", "sr", esc(said));
}

const list = (items: readonly string[]): string =>
  items.length === 0 ? "" : el("ul", "bay-list", items.map((i) => el("li", "", esc(i))).join(""));

/** What to use of what, in a line, and how. */
function how(s: Scene): string {
  const step = s.task.step!;
  const bottle = bottleWords(step, s.task.pieces);
  return el("p", "bay-how", (bottle ? `${bottleMark(step)}<b>${bottle}</b><br>` : "") + esc(step.tool));
}

/** Which round it is, where there is more than one: else what is asked again looks as if nothing had been taken in. */
function roundWords(task: flow.Task): string {
  const most = Math.max(task.round, ...task.step!.zones.map((z) => z.rounds));
  return most > 1 ? `, round ${task.round} of ${most}` : "";
}

export function main(s: Scene): string {
  const { task } = s;
  const step = task.step;
  switch (task.phase) {
    case "start":
      return start(s);
    case "stop":
      return stopped(s);
    case "ready":
      return ready(s);
    case "apply": {
      const what = `${step!.agentName}, ${step!.ratio}${roundWords(task)}`;
      return (
        since(s) +
        el("h1", "", TITLES[step!.look]) +
        el("p", `bay-what is-${step!.look}`, esc(what)) +
        how(s) +
        where(s) +
        (step!.cool ? el("p", "bay-caution", esc(step!.cool)) : "") +
        el("p", "bay-why", esc(step!.why))
      );
    }
    case "dwell":
      return dwell(s);
    case "work": {
      const what = (step!.water ? "water" : `${step!.agentName}, ${step!.ratio}`) + roundWords(task);
      return (
        since(s) +
        el("h1", "", esc(capital(step!.name))) +
        el("p", "bay-what", esc(what)) +
        how(s) +
        where(s) +
        el("p", "bay-why", esc(step!.avoid[0] ? `Not: ${lower(step!.avoid[0])}` : step!.why))
      );
    }
    case "look":
      return look(s);
    default:
      return (
        since(s) +
        el("h1", "", "All done") +
        el("p", "bay-what", "Every step of the plan is done or left out.") +
        el(
          "p",
          "bay-how",
          el("a", "", "What was entered", `href="/jobs/${s.doc.job}/results"`) +
            " · " +
            el("a", "", "Close the job", `href="/jobs/${s.doc.job}/close"`),
        )
      );
  }
}

function start(s: Scene): string {
  const { doc } = s;
  const plan = doc.plan > 0 ? `in force (${doc.plan})` : "as it stands now";
  const screen = s.awake ? "The screen stays on." : "This phone does not let the screen stay on: set it so, or touch it now and then.";
  return (
    el("h1", "", "Begin the job") +
    el("p", "bay-what", `${doc.steps.length} steps, by the plan ${plan}`) +
    (doc.referOnly ? el("p", "bay-caution", "Nothing may start here: the plan says who it goes to instead.") : "") +
    list(doc.opening.slice(0, 4)) +
    press("try", "Try the alarm: sound, shake and colour", { cls: "bay-side" }) +
    el("p", "bay-why", screen + (s.mute ? " It makes no sound until it was touched." : ""))
  );
}

function stopped(s: Scene): string {
  const [stop] = Object.values(s.state.stops);
  const gas = stop.what === "gas";
  const first = gas
    ? "Out, doors open, nobody mixes anything. The data sheet and the emergency services come first."
    : "Help first. Rinse skin and eyes with water for 15 minutes; call for help; the data sheet says the rest.";
  return (
    el("h1", "is-alarm", "Stop") +
    el("p", "bay-what", esc(`${gas ? "Gas or fumes" : "Somebody is hurt"}, said by ${s.doc.people[stop.who] ?? stop.who}`)) +
    el("p", "bay-caution", first) +
    (s.offlineSince === null ? "" : el("p", "bay-why", "No network: this stop has reached nobody else. Tell them."))
  );
}

function ready(s: Scene): string {
  const { task } = s;
  const step = task.step!;
  const mix = step.mixFirst ? `${esc(step.mixFirst)} ${el("a", "", "Mix", `href="/jobs/${s.doc.job}/mix"`)}` : "";
  return (
    since(s) +
    el("h1", "", task.kit.length > 0 ? "Put on" : "Mind this") +
    el("p", "bay-what", esc(`${step.name}: ${step.agentName}`)) +
    el("ul", "bay-kit", task.kit.map((k) => el("li", "", esc(k))).join("")) +
    list(task.cautions.map((c) => c.words)) +
    (mix ? el("p", "bay-caution", mix) : "") +
    el("p", "bay-why", "The bottle's label and data sheet win over anything said here.")
  );
}

/** What came of the last thing done: how the round ended, and why it goes on or not. */
function since(s: Scene): string {
  const words = [lastRound(s), lastLook(s)].filter((w) => w !== "");
  return words.map((w) => el("p", "bay-loop", esc(w))).join("");
}

/** The newest entry of whoever holds the phone. */
function newest(s: Scene): Entry | undefined {
  return Object.values(s.state.entries)
    .filter((e) => e.who === s.doc.me.who && e.kind !== "taken" && s.state.undone[e.id] === undefined)
    .sort((a, b) => (b.number ?? 0) - (a.number ?? 0))[0];
}

function lastRound(s: Scene): string {
  const entry = newest(s);
  const ends = (entry?.body?.zones ?? []).map((z) => s.state.zones[z]?.last).filter((l) => l?.number === entry?.number);
  if (entry?.kind !== "rinsed" || ends.length === 0) return "";
  if (ends.some((l) => l?.verdict === "dried")) return "It had dried on the panel: that round counts as not done.";
  if (ends.some((l) => l?.verdict === "short")) return "Rinsed before its time: the round counts as long as it truly stayed.";
  return ends.some((l) => l?.verdict === "unsure") ? "How long it stayed nobody knows for sure: it is reckoned as short as it may have been." : "";
}

/** After a look: the server's sentence once it has one, the plan's where no further round may be made. */
function lastLook(s: Scene): string {
  const entry = newest(s);
  const step = entry?.kind === "seen" ? s.doc.steps.find((x) => x.key === entry.body?.step) : undefined;
  if (!step?.until) return "";
  if (entry?.body?.result === "inconclusive") return "Could not tell is never clean: it is asked again.";
  const zones = (entry?.body?.zones ?? []).map((z) => z.split(":")[0]);
  const known = s.doc.head >= (entry?.number ?? Infinity);
  const loop = known ? s.doc.loops.find((l) => l.step === step.key && zones.includes(l.zone)) : undefined;
  if (loop) return loop.words;
  const stops = step.until.answers.some((a) => a.word === entry?.body?.result && a.stop);
  const most = zones.every((z) => flow.roundsDone(s.state, step, z) >= step.until!.most);
  return !stops && most ? `No more rounds here: ${step.until.then}.` : "";
}

function where(s: Scene): string {
  const step = s.task.step!;
  return (
    el("p", "bay-where", esc(flow.wordsOf(s.doc, s.task.pieces))) + netSvg(s.doc, s.task.pieces, step.water ? "plain" : step.look)
  );
}

/** The film of what somebody works at that has the least time. */
function tightest(s: Scene): Line {
  const lines = s.task.pieces.flatMap((p) => s.state.zones[p]?.lines[s.task.step!.treatment] ?? []);
  return lines.reduce((a, l) => (rinseBy(l) < rinseBy(a) ? l : a), lines[0]);
}

/** Did what somebody works at dry on the panel? Then it is wetted before it is rinsed. */
export const isDried = (s: Scene): boolean =>
  s.task.phase === "dwell" && s.dated && flow.urgencyOf(tightest(s), s.now) === "dried";

function dwell(s: Scene): string {
  const step = s.task.step!;
  const first = tightest(s);
  const urgency = flow.urgencyOf(first, s.now);
  const late = urgency === "now" || urgency === "dried";
  const left = first.first + first.dwell - s.now;
  const [title, hint] =
    !s.dated
      ? ["Look at it", "Nobody knows how long it has been on. Still wet: rinse. Dry: wet it again first, then rinse."]
      : urgency === "dried"
      ? ["Wet, then rinse", "Wet it again first, then rinse it off whole."]
      : urgency === "now"
        ? ["Rinse", "Now, all of it, top down."]
        : left <= 0
          ? ["Rinse it off", "Longer gains nothing here."]
          : ["Let it work", `It has worked in ${flow.clockWords(left)}. Make the next thing ready meanwhile.`];
  return (
    el("h1", [late ? "is-alarm" : "", urgency === "dried" ? "is-long" : ""].join(" ").trim(), title) +
    el("p", `bay-what is-${step.look}`, esc(flow.wordsOf(s.doc, s.task.pieces))) +
    netSvg(s.doc, s.task.pieces, step.look, { late: late ? s.task.pieces : [] }) +
    el("p", "bay-why", esc(hint))
  );
}

function look(s: Scene): string {
  const until = s.task.step!.until!;
  const on = s.task.pieces.filter((p) => !s.choice.off.includes(p));
  const answers = until.answers.map((a) => {
    const pressed = s.choice.answer === a.word;
    const drawing = a.drawing.replace("<svg ", '<svg preserveAspectRatio="xMidYMid slice" ');
    const cls = ["bay-answer", a.word === "inconclusive" ? "is-doubt" : "", pressed ? "is-chosen" : ""].join(" ").trim();
    const inside = (drawing || el("span", "bay-answer-none", "")) + el("b", "", esc(a.say));
    return press("answer", inside, { word: a.word, cls, pressed });
  });
  const becauses = s.doc.becauses.map((b) =>
    press("because", esc(b.words), { word: b.id, pressed: s.choice.because === b.id }),
  );
  const places = flow.placesOf(s.doc, s.task.pieces).map((p) =>
    press("piece", esc(p.words), { piece: p.pieces.join(" "), pressed: p.pieces.every((x) => on.includes(x)) }),
  );
  const group = (cls: string, label: string, inside: string[]): string =>
    el("div", cls, inside.join(""), `role="group" aria-label="${label}"`);
  return (
    since(s) +
    el("h1", "is-question", esc(until.ask)) +
    el("p", "bay-ask", esc(until.how)) +
    el("div", "bay-answers", answers.join("")) +
    (s.choice.answer === "inconclusive" ? group("bay-because", "Why could nobody tell?", becauses) : "") +
    (places.length > 1 ? group("bay-pieces", "Where", places) : "")
  );
}

/** What everybody has to know now: a pause that does not stop the drying, what could not be taken in, what was answered. */
export function said(s: Scene, why: string | undefined): string {
  const lines = [
    s.choice.said,
    Object.keys(s.state.paused).length > 0 ? "Paused. Films go on drying: their clocks run." : null,
    s.aside > 0 ? `${s.aside} not taken: ${why ?? ""}` : null,
  ].filter((l) => l !== null);
  return lines.map((l) => el("p", "", esc(l))).join("");
}

/** The proposal of the server, in a sentence. */
export function offer(s: Scene): string {
  const o = s.doc.offer;
  const late = flow.openLines(s.state).some((x) => flow.urgencyOf(x.line, s.now) !== "calm");
  // Nobody decides while something has to come off, or where several films want watching.
  if (!o || late || flow.openSections(s.state).length > 1 || s.task.phase === "start" || s.task.phase === "stop") return "";
  const [first, ...rest] = o.changes;
  const more = rest.length === 0 ? "" : `, and ${rest.length} more ${rest.length === 1 ? "change" : "changes"}`;
  const change = el("b", "", esc(first ?? "the same work, otherwise"));
  const why = esc(o.because.join(", "));
  return (
    el("p", "", `Another plan from here: ${change}${more}. ${o.minutes} min of work left. Why: ${why}.`) +
    el(
      "div",
      "bay-pair",
      press("take", "Take it") +
        press("refuse", "Keep the plan") +
        el("a", "", "Look", `href="/jobs/${s.doc.job}/plan#offer"`),
    )
  );
}

interface Next {
  words: string;
  small: string;
  can: boolean;
  what: string;
}

export function nextWords(s: Scene): Next {
  const { task, choice } = s;
  const may = (words: string, small: string, what: string, can = true): Next => ({ words, small, can, what });
  if (s.busy) return may("One moment", "the server is asked", "", false);
  if (s.doc.station === "closed") return may("Closed", "an owner can open the job again", "", false);
  if (!s.doc.me.mayEdit) return may("You look here", "owners and technicians write", "", false);
  switch (task.phase) {
    case "start":
      return may("Begin", "by this plan", "start", !s.doc.referOnly);
    case "stop":
      return may("It is safe again", "goes on for everybody", "resume");
    case "ready":
      return task.kit.length > 0 ? may("All on", "and read", "cautioned") : may("Understood", "", "cautioned");
    case "apply":
      return may(task.step!.look === "foam" ? "Foamed" : "It is on", "when the last of it is on", "applied");
    case "dwell":
      return isDried(s) ? may("Wet again", "before you rinse", "rewet") : may("Rinsed", "when the last of it is off", "rinsed");
    case "work":
      return may("Done", flow.wordsOf(s.doc, task.pieces), "worked");
    case "look": {
      const doubt = choice.answer === "inconclusive" && choice.because === null;
      const on = task.pieces.filter((p) => !choice.off.includes(p));
      const small =
        choice.answer === null
          ? "choose what you see"
          : doubt
            ? "why could you not tell?"
            : on.length === 0
              ? "choose where"
              : `on ${flow.wordsOf(s.doc, on)}`;
      return may("Write it down", small, "seen", choice.answer !== null && !doubt && on.length > 0);
    }
    default:
      return may("Back to the yard", "", "yard");
  }
}

export function sheet(s: Scene): string {
  const c = s.choice;
  const heading = (words: string): string => el("h2", "", esc(words));
  const menu = (items: string[], more = ""): string => el("div", `bay-menu${more}`, items.join(""));
  const close = press("close", "Back", { cls: "bay-close" });
  switch (c.sheet) {
    case "more": {
      const paused = Object.keys(s.state.paused).length > 0;
      const items = [
        press("sheet", "Something happened", { word: "trouble" }),
        press("sheet", "Read a panel's heat", { word: "reading" }),
        press("sheet", "Another step", { word: "steps" }),
        press("sheet", "Leave this out", { word: "skip" }),
        paused ? press("unpause", "Go on working") : press("pause", "Pause"),
        press("hand", "Hand over to somebody"),
        press("sheet", "A second phone", { word: "code" }),
        press("try", "Try the alarm"),
        ...(s.voice === "none" ? [] : [press("voice", s.voice === "on" ? "Be silent" : "Read it to me", { pressed: s.voice === "on" })]),
      ];
      const wet = flow.openLines(s.state).length > 0;
      const newer = !s.newer
        ? ""
        : el("p", "", `A newer Tough Start waits: it comes with the next run${wet ? "." : ", or now."}`) +
          (wet ? "" : press("newer", "Take it now", { cls: "bay-side" }));
      return heading("More") + menu(items) + newer + close;
    }
    case "trouble":
      return heading("What happened?") + menu(s.doc.troubles.map((t) => press("happened", esc(t.words), { word: t.id }))) + close;
    case "skip":
      return heading("Leave this out because") + menu(SKIPPED_BECAUSE.map((w) => press("skip", capital(w), { word: w }))) + close;
    case "reading": {
      const heats = HEATS.map((n) => press("reading", `${n}`, { word: `${n}` }));
      return (
        heading("How hot is the panel?") +
        el("p", "", esc(`${flow.wordsOf(s.doc, s.task.pieces.slice(0, 1))}, °C`)) +
        menu([...heats, press("gauge", "Ask the thermometer")], " is-numbers") +
        close
      );
    }
    case "steps": {
      const open = s.doc.steps.filter((x) => !flow.stepDone(s.doc, s.state, x));
      const items = open.map((x) => press("take-step", `${x.number} ${esc(capital(x.name))}`, { word: x.key }));
      return heading("Which step?") + menu(items) + close;
    }
    case "undo":
      return (
        heading("Nothing was put on?") +
        el("p", "", "Then the line goes away for everybody.") +
        el("div", "bay-pair", press("undo-sure", "Nothing was put on") + press("close", "It is on"))
      );
    case "line":
      return (
        heading(flow.wordsOf(s.doc, c.piece ? [c.piece] : [])) +
        menu([press("rinse-line", "It was rinsed"), press("rewet-line", "It was wetted again")]) +
        close
      );
    case "code":
      return (
        heading("A second phone") +
        el("p", "", "Let it look at this, and sign in on it.") +
        `<img class="bay-code" src="/jobs/${s.doc.job}/bay/code.svg" alt="Code with the address of this page">` +
        close
      );
    default:
      return "";
  }
}
