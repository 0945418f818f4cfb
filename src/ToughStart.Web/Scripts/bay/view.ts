import type { State } from "../live/reduce";
import type { Doc, Step } from "./document";
import * as flow from "./flow";
import { lineSvg } from "./lines";

/** What a screen shows, as text: the same document, state and moment give the same screen. */

const esc = (s: string): string => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** What somebody chose on this phone and has not said yet. */
export interface Choice {
  answer: string | null;
  because: string | null;
  off: string[];
  sheet: "more" | "trouble" | "skip" | "reading" | "steps" | "undo" | "line" | "again" | "code" | null;
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
  width: number;
  busy: boolean;
}

const TITLES: Record<Step["look"], string> = { foam: "Foam it on", iron: "Spray it on", gel: "Lay it on", film: "Put it on" };

/** Nobody knows when it dries. */
const UNKNOWN_MS = 24 * 3_600_000;

const BECAUSE: [string, string][] = [
  ["dried", "it had dried"],
  ["hot", "the panel is hot"],
  ["wet", "too wet to see"],
  ["masked-colour", "the paint hides it"],
  ["light", "too little light"],
];

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

export function header(s: Scene): string {
  const [me] = (s.doc.people[s.doc.me.who] ?? s.doc.me.who).split(" ");
  return (
    `<a class="bay-out" href="/jobs/${s.doc.job}/plan" aria-label="Back to the plan">‹</a>` +
    `<b>${esc(s.doc.vehicle)}</b><span class="bay-count">${stepCount(s)}</span>` +
    `<span class="bay-link is-${s.offlineSince !== null ? "offline" : s.link}">${esc(me)} · ${esc(linkWords(s))}</span>`
  );
}

/** The net, lit where the step works; drawn as near as that allows. */
export function netSvg(doc: Pick<Doc, "net" | "steps">, lit: readonly string[], look: Step["look"] | "plain", late: readonly string[] = []): string {
  const on = new Set(lit.map((p) => p.split(":")[0]));
  const red = new Set(late.map((p) => p.split(":")[0]));
  const boxes = doc.net.zones.filter((z) => on.has(z.id)).map((z) => z.box);
  const [bx, by, bw, bh] = doc.net.box;
  let view = [bx - 0.1, by - 0.1, bw + 0.2, bh + 0.2];
  if (boxes.length > 0) {
    const x0 = Math.min(...boxes.map((b) => b[0]));
    const y0 = Math.min(...boxes.map((b) => b[1]));
    const x1 = Math.max(...boxes.map((b) => b[0] + b[2]));
    const y1 = Math.max(...boxes.map((b) => b[1] + b[3]));
    // Enough around it to know where on the vehicle one is.
    const w = Math.min(bw + 0.2, Math.max(x1 - x0 + 0.8, bw * 0.62));
    const h = Math.min(bh + 0.2, Math.max(y1 - y0 + 0.5, w * 0.5));
    const cx = Math.min(Math.max((x0 + x1) / 2, bx - 0.1 + w / 2), bx + bw + 0.1 - w / 2);
    const cy = Math.min(Math.max((y0 + y1) / 2, by - 0.1 + h / 2), by + bh + 0.1 - h / 2);
    view = [cx - w / 2, cy - h / 2, w, h];
  }
  const clips: string[] = [];
  const zones = doc.net.zones
    .map((z) => {
      const cls = red.has(z.id) ? "late" : on.has(z.id) ? `lit lit-${look}` : z.glass ? "glass" : "";
      const parts = lit.filter((p) => p.startsWith(z.id + ":")).map((p) => p.split(":").map(Number));
      if (parts.length === 0) return `<path d="${z.path}" fill-rule="evenodd" class="${cls}"/>`;
      // Only the part that is worked is lit, counted from the front.
      const id = `part-${z.id}-${clips.length}`;
      const [x, y, w, h] = z.box;
      const bands = parts.map(([, k, m]) => `<rect x="${x + (w * (k - 1)) / m}" y="${y}" width="${w / m}" height="${h}"/>`);
      clips.push(`<clipPath id="${id}">${bands.join("")}</clipPath>`);
      return `<path d="${z.path}"/><path d="${z.path}" fill-rule="evenodd" class="${cls}" clip-path="url(#${id})"/>`;
    })
    .join("");
  const words = flow.wordsOf(doc, lit);
  return `<svg class="bay-net" viewBox="${view.map((n) => n.toFixed(2)).join(" ")}" role="img" aria-label="${esc(words)}"><defs>${clips.join("")}</defs>${zones}</svg>`;
}

/** Films that are on, the most urgent large. */
export function lines(s: Scene): string {
  const open = flow.openSections(s.state);
  if (open.length === 0) return s.task.phase === "apply" ? ghost(s) : "";
  const step = (treatment: string): Step | undefined => s.doc.steps.find((x) => x.treatment === treatment);
  return open
    .slice(0, 4)
    .map((o, i) => {
      const words = `${flow.wordsOf(s.doc, o.pieces)}, ${step(o.treatment)?.agentName ?? o.treatment}`;
      const who = o.who === s.doc.me.who ? "" : (s.doc.people[o.who] ?? o.who);
      const look = step(o.treatment)?.look ?? "film";
      const svg = lineSvg(o.line, look, s.now, words, who, s.width, i === 0);
      const tap = `data-do="line" data-piece="${esc(o.pieces[0])}"`;
      return i === 0
        ? `<button class="bay-line is-first" ${tap}>${plate(s, o.line)}<span class="bay-line-words">${esc(words)}${who ? ` · ${esc(who)}` : ""}</span>${svg}</button>`
        : `<button class="bay-line" ${tap}>${svg}</button>`;
    })
    .concat(open.length > 4 ? [`<p class="bay-more-lines">and ${open.length - 4} more, each later</p>`] : [])
    .join("");
}

function plate(s: Scene, line: Parameters<typeof flow.urgencyOf>[0]): string {
  const urgency = flow.urgencyOf(line, s.now);
  const by = Math.min(line.usable, line.max);
  const worked = line.first + line.dwell - s.now;
  if (!s.dated) return `<span class="plate is-now">look</span><span class="plate-words">this phone was asleep: look at the panel</span>`;
  const perhaps = line.perhaps ? "perhaps rinsed: look. " : "";
  switch (urgency) {
    case "dried":
      return `<span class="plate is-dried">dried</span><span class="plate-words">${perhaps}wet it again before you rinse; this round does not count</span>`;
    case "now": {
      const dry = line.dry - s.now;
      const soon = dry < 3_600_000 ? `first dry spots in about ${flow.clockWords(dry)}` : "the label's time is over";
      return `<span class="plate is-now">rinse</span><span class="plate-words">${perhaps}no time left: ${soon}</span>`;
    }
    case "warn":
      return `<span class="plate is-warn">${flow.clockWords(by - s.now)}</span><span class="plate-words">${perhaps}last quarter: rinse is next</span>`;
    case "worked":
      return `<span class="plate is-worked">${flow.clockWords(by - s.now)}</span><span class="plate-words">${perhaps}it has worked: rinse when you like</span>`;
    default:
      return `<span class="plate">${flow.clockWords(by - s.now)}</span><span class="plate-words">${perhaps}leave it ${flow.clockWords(worked)} more</span>`;
  }
}

function ghost(s: Scene): string {
  const step = s.task.step!;
  const win = flow.windowOf(s.doc, step, s.task.pieces, s.now);
  if (!win) return "";
  const by = Math.min(win.usable, win.max);
  const tight = by < win.dwell;
  const words = tight ? `dries before it has worked: wet it again on the way, ${flow.clockWords(win.dwell)} in all` : `leave it ${flow.clockWords(win.dwell)}, then rinse`;
  const blind = win.dry >= UNKNOWN_MS ? "<br>no weather is known here: watch the film" : "";
  return `<p class="bay-ghost"><span class="plate is-ghost">${flow.clockWords(by)}</span><span class="plate-words">wet, from the last of it<br><b>${esc(words)}</b>${blind}</span></p>`;
}

const bottleWords = (s: Scene, step: Step, pieces: readonly string[]): string => {
  const pour = flow.pourOf(step, pieces);
  const amount = pour.solution >= 1 ? `${pour.solution < 20 ? pour.solution.toFixed(0) : Math.round(pour.solution / 5) * 5} ml` : "";
  const from = step.bottle ? step.bottle.name + (step.bottle.mix ? `, mix ${step.bottle.mix}` : "") : "";
  return [from, amount].filter((x) => x !== "").join(", ");
};

export function main(s: Scene): string {
  const { task, doc } = s;
  const step = task.step;
  switch (task.phase) {
    case "start":
      return (
        `<h1>Begin the job</h1><p class="bay-what">${doc.steps.length} steps, by the plan ${doc.plan > 0 ? `in force (${doc.plan})` : "as it stands now"}</p>` +
        (doc.referOnly ? `<p class="bay-caution">Nothing may start here: the plan says who it goes to instead.</p>` : "") +
        `<ul class="bay-list">${doc.opening.slice(0, 4).map((o) => `<li>${esc(o)}</li>`).join("")}</ul>` +
        `<button class="bay-side" data-do="try">Try the alarm: sound, shake and colour</button>` +
        `<p class="bay-why">${s.awake ? "The screen stays on." : "This phone does not let the screen stay on: set it so, or touch it now and then."}` +
        `${s.mute ? " It makes no sound until it was touched." : ""}</p>`
      );
    case "stop": {
      const [id] = Object.keys(s.state.stops);
      const stop = s.state.stops[id];
      const who = doc.people[stop.who] ?? stop.who;
      return (
        `<h1 class="is-alarm">Stop</h1><p class="bay-what">${esc(stop.what === "gas" ? "Gas or fumes" : "Somebody is hurt")}, said by ${esc(who)}</p>` +
        `<p class="bay-caution">${stop.what === "gas" ? "Out, doors open, nobody mixes anything. The data sheet and the emergency services come first." : "Help first. Rinse skin and eyes with water for 15 minutes; call for help; the data sheet says the rest."}</p>` +
        (s.offlineSince !== null ? `<p class="bay-why">No network: this stop has reached nobody else. Tell them.</p>` : "")
      );
    }
    case "ready":
      return (
        `<h1>${task.kit.length > 0 ? "Put on" : "Mind this"}</h1><p class="bay-what">${esc(step!.name)}: ${esc(step!.agentName)}</p>` +
        `<ul class="bay-kit">${task.kit.map((k) => `<li>${esc(k)}</li>`).join("")}</ul>` +
        `<ul class="bay-list">${task.cautions.map((c) => `<li>${esc(c.words)}</li>`).join("")}</ul>` +
        (step!.mixFirst ? `<p class="bay-caution">${esc(step!.mixFirst)} <a href="/jobs/${doc.job}/mix">Mix</a></p>` : "") +
        `<p class="bay-why">The bottle's label and data sheet win over anything said here.</p>`
      );
    case "apply":
      return (
        `<h1>${TITLES[step!.look]}</h1><p class="bay-what is-${step!.look}">${esc(step!.agentName)}, ${esc(step!.ratio)}${task.round > 1 ? `, round ${task.round}` : ""}</p>` +
        `<p class="bay-how"><b>${esc(bottleWords(s, step!, task.pieces))}</b><br>${esc(step!.tool)}</p>` +
        where(s) +
        loopWords(s) +
        (step!.cool ? `<p class="bay-caution">${esc(step!.cool)}</p>` : "") +
        `<p class="bay-why">${esc(step!.why)}</p>`
      );
    case "dwell":
      return dwell(s);
    case "work":
      return (
        `<h1>${esc(capital(step!.name))}</h1><p class="bay-what">${esc(step!.water ? "water" : `${step!.agentName}, ${step!.ratio}`)}</p>` +
        `<p class="bay-how"><b>${esc(bottleWords(s, step!, task.pieces))}</b>${bottleWords(s, step!, task.pieces) ? "<br>" : ""}${esc(step!.tool)}</p>` +
        where(s) +
        loopWords(s) +
        `<p class="bay-why">${esc(step!.avoid[0] ? `Not: ${lower(step!.avoid[0])}` : step!.why)}</p>`
      );
    case "look":
      return look(s);
    default:
      return (
        s.doc.loops.slice(0, 3).map((l) => `<p class="bay-loop">${esc(l.words)}</p>`).join("") +
        `<h1>All done</h1><p class="bay-what">Every step of the plan is done or left out.</p>` +
        `<p class="bay-how"><a href="/jobs/${doc.job}/results">What was entered</a> · <a href="/jobs/${doc.job}/close">Close the job</a></p>`
      );
  }
}

/** Why it goes on, or does not: the chance that another round is worth it, in the server's words. */
function loopWords(s: Scene): string {
  const zones = s.task.pieces.map((p) => p.split(":")[0]);
  const loop = s.task.round > 1 ? s.doc.loops.find((l) => l.zones.some((z) => zones.includes(z))) : undefined;
  return loop ? `<p class="bay-loop">${esc(loop.words)}</p>` : "";
}

const capital = (w: string): string => w.charAt(0).toUpperCase() + w.slice(1);
const lower = (w: string): string => w.charAt(0).toLowerCase() + w.slice(1);

function where(s: Scene): string {
  const step = s.task.step!;
  return `<p class="bay-where">${esc(flow.wordsOf(s.doc, s.task.pieces))}</p>${netSvg(s.doc, s.task.pieces, step.water ? "plain" : step.look)}`;
}

function dwell(s: Scene): string {
  const step = s.task.step!;
  const lines = s.task.pieces.flatMap((p) => s.state.zones[p]?.lines[step.treatment] ?? []);
  const first = lines.reduce((a, l) => (Math.min(l.usable, l.max) < Math.min(a.usable, a.max) ? l : a), lines[0]);
  const urgency = flow.urgencyOf(first, s.now);
  const late = urgency === "now" || urgency === "dried";
  const worked = first.first + first.dwell <= s.now;
  const title = urgency === "dried" ? "Wet, then rinse" : late ? "Rinse" : worked ? "Rinse it off" : "Let it work";
  const hint = late
    ? urgency === "dried"
      ? "Wet it again first, then rinse it off whole."
      : "Now, all of it, top down."
    : worked
      ? "Longer gains nothing here."
      : `It has worked in ${flow.clockWords(first.first + first.dwell - s.now)}. Make the next thing ready meanwhile.`;
  return (
    `<h1 class="${late ? "is-alarm" : ""}${urgency === "dried" ? " is-long" : ""}">${title}</h1><p class="bay-what is-${step.look}">${esc(flow.wordsOf(s.doc, s.task.pieces))}</p>` +
    netSvg(s.doc, s.task.pieces, step.look, late ? s.task.pieces : []) +
    `<p class="bay-why">${esc(hint)}</p>`
  );
}

function look(s: Scene): string {
  const step = s.task.step!;
  const until = step.until!;
  const on = s.task.pieces.filter((p) => !s.choice.off.includes(p));
  const answers = until.answers
    .map((a) => {
      const chosen = s.choice.answer === a.word;
      const doubt = a.word === "inconclusive";
      return (
        `<button class="bay-answer${doubt ? " is-doubt" : ""}${chosen ? " is-chosen" : ""}" data-do="answer" data-word="${esc(a.word)}" aria-pressed="${chosen}">` +
        `${a.drawing.replace("<svg ", '<svg preserveAspectRatio="xMidYMid slice" ') || '<span class="bay-answer-none"></span>'}<b>${esc(a.say)}</b></button>`
      );
    })
    .join("");
  const because =
    s.choice.answer === "inconclusive"
      ? `<div class="bay-because" role="group" aria-label="Why could nobody tell?">${BECAUSE.map(
          ([id, words]) =>
            `<button data-do="because" data-word="${id}" aria-pressed="${s.choice.because === id}">${words}</button>`,
        ).join("")}</div>`
      : "";
  const places = flow.placesOf(s.doc, s.task.pieces);
  const pieces =
    places.length > 1
      ? `<div class="bay-pieces" role="group" aria-label="Where">${places
          .map((p) => {
            const pressed = p.pieces.every((x) => on.includes(x));
            return `<button data-do="piece" data-piece="${esc(p.pieces.join(" "))}" aria-pressed="${pressed}">${esc(p.words)}</button>`;
          })
          .join("")}</div>`
      : "";
  return `<h1 class="is-question">${esc(until.ask)}</h1><p class="bay-ask">${esc(until.how)}</p><div class="bay-answers">${answers}</div>${because}${pieces}`;
}

/** What everybody has to know now: a pause that does not stop the drying, what could not be taken in, what was answered. */
export function said(s: Scene, why: string | undefined): string {
  const lines = [
    s.choice.said,
    Object.keys(s.state.paused).length > 0 ? "Paused. Films go on drying: their clocks run." : null,
    s.aside > 0 ? `${s.aside} not taken: ${why ?? ""}` : null,
  ].filter((l) => l !== null);
  return lines.map((l) => `<p>${esc(l)}</p>`).join("");
}

/** The proposal of the server, in a sentence. */
export function offer(s: Scene): string {
  const o = s.doc.offer;
  const late = flow.openLines(s.state).some((x) => flow.urgencyOf(x.line, s.now) !== "calm");
  // Nobody decides while something has to come off, or where several films want watching.
  if (!o || late || flow.openSections(s.state).length > 1 || s.task.phase === "start" || s.task.phase === "stop") return "";
  const [first, ...rest] = o.changes;
  return (
    `<p>Another plan from here: <b>${esc(first ?? "the same work, otherwise")}</b>${rest.length > 0 ? `, and ${rest.length} more ${rest.length === 1 ? "change" : "changes"}` : ""}. ${o.minutes} min of work left. Why: ${esc(o.because.join(", "))}.</p>` +
    `<div class="bay-pair"><button data-do="take">Take it</button><button data-do="refuse">Keep the plan</button><a href="/jobs/${s.doc.job}/plan#offer">Look</a></div>`
  );
}

export function nextWords(s: Scene): { words: string; small: string; can: boolean; what: string } {
  const { task, choice } = s;
  if (s.busy) return { words: "One moment", small: "the server is asked", can: false, what: "" };
  if (!s.doc.me.mayEdit) return { words: "You look here", small: "owners and technicians write", can: false, what: "" };
  switch (task.phase) {
    case "start":
      return { words: "Begin", small: "by this plan", can: !s.doc.referOnly, what: "start" };
    case "stop":
      return { words: "It is safe again", small: "goes on for everybody", can: true, what: "resume" };
    case "ready":
      return task.kit.length > 0
        ? { words: "All on", small: "and read", can: true, what: "cautioned" }
        : { words: "Understood", small: "", can: true, what: "cautioned" };
    case "apply":
      return { words: task.step!.look === "foam" ? "Foamed" : "It is on", small: "when the last of it is on", can: true, what: "applied" };
    case "dwell":
      return { words: "Rinsed", small: "when the last of it is off", can: true, what: "rinsed" };
    case "work":
      return { words: "Done", small: flow.wordsOf(s.doc, task.pieces), can: true, what: "worked" };
    case "look": {
      const doubt = choice.answer === "inconclusive" && choice.because === null;
      const on = task.pieces.filter((p) => !choice.off.includes(p));
      const small = choice.answer === null ? "choose what you see" : doubt ? "why could you not tell?" : `on ${flow.wordsOf(s.doc, on)}`;
      return { words: "Write it down", small, can: choice.answer !== null && !doubt && on.length > 0, what: "seen" };
    }
    default:
      return { words: "Back to the yard", small: "", can: true, what: "yard" };
  }
}

export function sheet(s: Scene): string {
  const c = s.choice;
  const close = `<button class="bay-close" data-do="close">Back</button>`;
  switch (c.sheet) {
    case "more":
      return (
        `<h2>More</h2><div class="bay-menu"><button data-do="sheet" data-word="trouble">Something happened</button>` +
        `<button data-do="sheet" data-word="reading">Read a panel's heat</button>` +
        `<button data-do="sheet" data-word="steps">Another step</button>` +
        `<button data-do="sheet" data-word="skip">Leave this out</button>` +
        (Object.keys(s.state.paused).length > 0 ? `<button data-do="unpause">Go on working</button>` : `<button data-do="pause">Pause</button>`) +
        `<button data-do="hand">Hand over to somebody</button><button data-do="sheet" data-word="code">A second phone</button>` +
        `<button data-do="try">Try the alarm</button></div>${close}`
      );
    case "trouble":
      return (
        `<h2>What happened?</h2><div class="bay-menu">` +
        [
          ["gas", "Gas or fumes: everybody stops"],
          ["hurt", "Somebody is hurt: everybody stops"],
          ["dried-on", "It dried on the panel"],
          ["mark", "A mark on the panel"],
          ["spill", "Something spilled"],
          ["tool", "A tool broke"],
          ["weather", "Rain, sun or wind came"],
        ]
          .map(([id, words]) => `<button data-do="happened" data-word="${id}">${words}</button>`)
          .join("") +
        `</div>${close}`
      );
    case "skip":
      return (
        `<h2>Leave this out because</h2><div class="bay-menu">` +
        ["not needed here", "the client does not want it", "no time", "not safe here", "the tool is missing"]
          .map((w) => `<button data-do="skip" data-word="${w}">${capital(w)}</button>`)
          .join("") +
        `</div>${close}`
      );
    case "reading":
      return (
        `<h2>How hot is the panel?</h2><p>${esc(flow.wordsOf(s.doc, s.task.pieces.slice(0, 1)))}, °C</p><div class="bay-menu is-numbers">` +
        [10, 15, 20, 25, 30, 35, 40, 45, 50].map((n) => `<button data-do="reading" data-word="${n}">${n}</button>`).join("") +
        `<button data-do="gauge">Ask the thermometer</button></div>${close}`
      );
    case "steps":
      return (
        `<h2>Which step?</h2><div class="bay-menu">` +
        s.doc.steps
          .filter((x) => !flow.stepDone(s.state, x))
          .map((x) => `<button data-do="take-step" data-word="${esc(x.key)}">${x.number} ${esc(capital(x.name))}</button>`)
          .join("") +
        `</div>${close}`
      );
    case "undo":
      return `<h2>Nothing was put on?</h2><p>Then the line goes away for everybody.</p><div class="bay-pair"><button data-do="undo-sure">Nothing was put on</button><button data-do="close">It is on</button></div>`;
    case "line":
      return (
        `<h2>${esc(flow.wordsOf(s.doc, c.piece ? [c.piece] : []))}</h2><div class="bay-menu"><button data-do="rinse-line">It was rinsed</button>` +
        `<button data-do="rewet-line">It was wetted again</button></div>${close}`
      );
    case "code":
      return `<h2>A second phone</h2><p>Let it look at this, and sign in on it.</p><img class="bay-code" src="/jobs/${s.doc.job}/bay/code.svg" alt="Code with the address of this page">${close}`;
    default:
      return "";
  }
}
