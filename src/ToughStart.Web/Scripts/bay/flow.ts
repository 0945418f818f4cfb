import type { Entry } from "../live/log";
import { zoneOf, type State } from "../live/reduce";
import { rinseBy, type Line } from "../live/zone";
import type { Doc, Step, ZoneOfStep } from "./document";

/** What one person does next. A pure function of the document, the state and who asks: two phones of one person say the same. */
export type Phase = "start" | "ready" | "apply" | "dwell" | "work" | "look" | "end" | "stop";

export interface Task {
  phase: Phase;
  step: Step | null;
  /** Zones, or parts of zones, it is about. */
  pieces: string[];
  round: number;
  /** Cautions and kit that nobody has put on yet. */
  kit: string[];
  cautions: { id: string; words: string }[];
}

export interface Open {
  piece: string;
  treatment: string;
  line: Line;
}

const NONE: Task = { phase: "end", step: null, pieces: [], round: 0, kit: [], cautions: [] };

/** Caution id of a piece of kit. */
export const kitId = (piece: string): string => `kit:${piece}`;

/** Every film nobody has surely rinsed, the most urgent first. */
export function openLines(state: State): Open[] {
  return Object.entries(state.zones)
    .flatMap(([piece, zone]) =>
      Object.entries(zone.lines).flatMap(([treatment, lines]) => lines.map((line) => ({ piece, treatment, line }))),
    )
    .sort((a, b) => rinseBy(a.line) - rinseBy(b.line) || (a.piece < b.piece ? -1 : 1));
}

/** Films that were put on together and come off together, the most urgent first. */
export function openSections(state: State): { treatment: string; who: string; pieces: string[]; line: Line }[] {
  const sections = new Map<string, { treatment: string; who: string; pieces: string[]; line: Line }>();
  for (const o of openLines(state)) {
    const key = `${o.treatment}/${o.line.last}`;
    const section = sections.get(key);
    if (section) section.pieces.push(o.piece);
    else sections.set(key, { treatment: o.treatment, who: o.line.who, pieces: [o.piece], line: o.line });
  }
  return [...sections.values()];
}

export const sectionsOf = (step: Step): string[][] => step.sections;

export const zoneOfStep = (step: Step, piece: string): ZoneOfStep | undefined =>
  step.zones.find((z) => z.id === zoneOf(piece));

const factsOf = (state: State, piece: string): readonly Entry[] => state.facts[piece] ?? state.facts[zoneOf(piece)] ?? [];

const isOpen = (state: State, step: Step, piece: string): boolean =>
  (state.zones[piece]?.lines[step.treatment]?.length ?? 0) > 0;

/** Rounds of this step that came to their end on a piece; one that dried counts as not done. */
export function roundsDone(state: State, step: Step, piece: string): number {
  const zone = state.zones[piece];
  const joined = zone?.joined ?? [];
  const mine = factsOf(state, piece).filter((f) => f.body?.step === step.key && !joined.includes(f.id));
  const told = mine.filter((f) => f.kind === "observed").reduce((n, f) => n + (f.body?.rounds ?? 0), 0);
  const made = mine.filter((f) => f.kind === "applied" || f.kind === "worked").length;
  const wet = step.under ? 0 : (zone?.lines[step.treatment]?.length ?? 0);
  const dried = mine.length > 0 ? (zone?.dried[step.treatment] ?? 0) : 0;
  return told + Math.max(0, made - wet - dried);
}

type Need = "nothing" | "round" | "look" | "wait";

/** The last conclusive look since the last work of a step: could not tell, or seen over a round that dried, is none. */
function answerOf(state: State, step: Step, piece: string): Entry | undefined {
  const facts = factsOf(state, piece);
  const work = facts.findLastIndex((f) => f.kind !== "seen" && f.body?.step === step.key);
  const seen = facts
    .slice(work)
    .findLast((f) => (f.kind === "seen" || f.kind === "observed") && f.body?.step === step.key && f.body.result !== undefined);
  const look = state.zones[piece]?.looks[seen?.body?.observe ?? ""];
  return seen?.body?.result === "inconclusive" || look?.void ? undefined : seen;
}

/** What a piece still needs of a step: by what the server holds of it once it has heard the look, until then by the stop sign. */
export function needOf(doc: Doc, state: State, step: Step, piece: string): Need {
  const zone = zoneOfStep(step, piece);
  const facts = factsOf(state, piece);
  if (zone === undefined || facts.some((f) => f.kind === "skipped" && f.body?.step === step.key)) return "nothing";
  if (isOpen(state, step, piece)) return step.under ? "nothing" : "wait";
  // Done before anybody had a phone in hand: a paper card says so, and that earlier steps were done.
  if (doc.done.includes(step.key) && !facts.some((f) => f.body?.step === step.key)) return "nothing";
  const done = roundsDone(state, step, piece);
  if (done === 0) return "round";
  const until = step.until;
  if (!until) return done >= zone.rounds ? "nothing" : "round";
  const seen = answerOf(state, step, piece);
  if (!seen) return "look";
  const most = Math.max(zone.rounds, until.most);
  const loop = doc.head >= (seen.number ?? Infinity) ? doc.loops.find((l) => l.zone === zone.id && l.step === step.key) : undefined;
  const stops = until.answers.some((a) => a.word === seen.body?.result && a.stop);
  return done < most && (loop ? loop.again : !stops) ? "round" : "nothing";
}

export const stepDone = (doc: Doc, state: State, step: Step): boolean =>
  sectionsOf(step).every((s) => s.every((p) => needOf(doc, state, step, p) === "nothing"));

/** The step somebody is at: the one they took, else the first that is open and that nobody else has. */
export function stepOf(doc: Doc, state: State, who: string): Step | null {
  const open = doc.steps.filter((s) => !stepDone(doc, state, s));
  const mine = open.find((s) => s.key === state.crew[who]?.step);
  const taken = Object.entries(state.crew).filter(([p]) => p !== who).map(([, post]) => post.step);
  const free = open.filter((s) => !taken.includes(s.key));
  return mine ?? turnOf(doc, free, open, who) ?? free[0] ?? open[0] ?? null;
}

/** What the timeline gives somebody next: the first of their steps whose zones nothing earlier is still to be done on. */
function turnOf(doc: Doc, free: Step[], open: Step[], who: string): Step | null {
  const own = (doc.turns?.next ?? []).filter((t) => t.who === who).sort((a, b) => a.from - b.from);
  for (const turn of own) {
    const step = free.find((s) => s.key === turn.step);
    if (!step) continue;
    const zones = new Set(step.zones.map((z) => z.id));
    const earlier = open.slice(0, open.indexOf(step)).some((s) => s.zones.some((z) => zones.has(z.id)));
    if (!earlier) return step;
  }
  return null;
}

/** Minutes by which somebody is behind the timeline in the step they are at; 0 where they are not, or nobody laid it out. */
export function behind(doc: Doc, state: State, who: string, now: number): number {
  if (doc.begun === null || !doc.turns?.due) return 0;
  const step = stepOf(doc, state, who);
  const turn = doc.turns.due.find((t) => t.who === who && t.step === step?.key);
  if (!step || !turn) return 0;
  const begun = step.zones.some((z) => roundsDone(state, step, z.id) > 0);
  return Math.max(0, Math.floor((now - (begun ? turn.to : turn.from)) / 60_000));
}

/** What somebody does next. */
export function taskOf(doc: Doc, state: State, who: string): Task {
  if (state.started === null) return { ...NONE, phase: "start" };
  if (Object.keys(state.stops).length > 0) return { ...NONE, phase: "stop" };
  const step = stepOf(doc, state, who);
  if (step === null) return NONE;
  const kit = step.kitPieces.filter((k) => state.cautions[kitId(k)] === undefined);
  const cautions = step.cautions.filter((c) => state.cautions[c.id] === undefined);
  const task = (phase: Phase, pieces: string[]): Task => ({
    phase: (kit.length > 0 || cautions.length > 0) && (phase === "apply" || phase === "work") ? "ready" : phase,
    step,
    pieces,
    round: 1 + Math.min(...pieces.map((p) => roundsDone(state, step, p))),
    kit,
    cautions,
  });
  const needs = sectionsOf(step).map((pieces) => pieces.map((p) => ({ p, need: needOf(doc, state, step, p) })));
  const having = (need: Need): string[][] =>
    needs.map((s) => s.filter((x) => x.need === need).map((x) => x.p)).filter((s) => s.length > 0);
  const wet = having("wait").sort((a, b) => urgency(state, step, a) - urgency(state, step, b));
  if (wet.length > 0) return task("dwell", wet[0]);
  const looks = having("look");
  if (looks.length > 0) return task("look", looks[0]);
  const rounds = having("round");
  return rounds.length > 0 ? task(step.line ? "apply" : "work", rounds[0]) : NONE;
}

const urgency = (state: State, step: Step, pieces: string[]): number =>
  Math.min(...pieces.flatMap((p) => (state.zones[p]?.lines[step.treatment] ?? []).map(rinseBy)));

/** The part of the table of quarter-hours that holds now. */
export function quarterOf(doc: Doc, now: number): number {
  return Math.max(0, Math.floor((now - doc.from) / doc.quarterMs));
}

/** How long what a step puts on these pieces may stay: the tightest of them. */
export function windowOf(doc: Doc, step: Step, pieces: readonly string[], now: number) {
  const at = quarterOf(doc, now);
  const all = pieces.map((p) => zoneOfStep(step, p)?.win).filter((w) => w != null);
  const rows = all.map((w) => w[Math.min(at, w.length - 1)]);
  if (rows.length === 0) return null;
  const least = (i: number): number => Math.min(...rows.map((r) => r[i]));
  return { dwell: Math.max(...rows.map((r) => r[0])), usable: least(1), dry: least(2), max: least(3) };
}

/** Product and solution of one round on these pieces, ml. */
export function pourOf(step: Step, pieces: readonly string[]): { neat: number; solution: number } {
  const part = (p: string): number => {
    const [, , parts] = p.split(":");
    return parts ? 1 / Number(parts) : 1;
  };
  const sum = (of: (z: ZoneOfStep) => number): number =>
    pieces.reduce((n, p) => n + (zoneOfStep(step, p) ? of(zoneOfStep(step, p)!) * part(p) : 0), 0);
  return { neat: sum((z) => z.ml), solution: sum((z) => z.solution) };
}

export type Urgency = "calm" | "worked" | "warn" | "now" | "dried";

/** Three quarters of the time are gone: the digits stand on a plate. */
const WARN = 0.75;

/** How near a film is to being late. */
export function urgencyOf(line: Line, now: number): Urgency {
  // Wetted again since, it has its time anew, though the round is lost.
  if (now >= line.dry || (line.dried && line.last === line.id)) return "dried";
  const by = rinseBy(line);
  if (now >= by) return "now";
  if (now >= line.start + WARN * (by - line.start)) return "warn";
  return now >= line.first + line.dwell ? "worked" : "calm";
}

const LEFT: Record<string, string> = { left: "left", right: "right" };

/** Zones in a few words: a whole side, or the first of them and how many more. */
export function wordsOf(doc: Pick<Doc, "net" | "steps">, pieces: readonly string[]): string {
  const words = pieces.map((p) => {
    const [id, part, parts] = p.split(":");
    const name = doc.net.zones.find((z) => z.id === id)?.words ?? id;
    return parts ? `${name}, ${part} of ${parts}` : name;
  });
  const key = [...pieces].sort().join(" ");
  const said = doc.steps.map((s) => s.words[key]).find((w) => w !== undefined);
  if (said) return said;
  if (words.length <= 2) return words.join(", ");
  const sides = new Set(pieces.map((p) => LEFT[p.split("-")[0]] ?? ""));
  const [side] = [...sides];
  if (sides.size === 1 && side) return `${side} side, ${words.length} places`;
  return `${words.slice(0, 2).join(", ")} and ${words.length - 2} more`;
}

/** Pieces by the place on the vehicle they belong to, so that a gloved hand has few things to hit. */
export function placesOf(doc: Doc, pieces: readonly string[]): { words: string; pieces: string[] }[] {
  if (pieces.length <= MOST_PLACES) return pieces.map((p) => ({ words: wordsOf(doc, [p]), pieces: [p] }));
  const places = new Map<string, string[]>();
  for (const p of pieces) {
    const [side, end] = p.split("-");
    const place = LEFT[side] ? (end === "front" || end === "rear" ? `${side} ${end}` : side) : "top and ends";
    places.set(place, [...(places.get(place) ?? []), p]);
  }
  return [...places].map(([words, of]) => ({ words, pieces: of }));
}

/** Single places offered to choose from. */
const MOST_PLACES = 6;

/** Minutes and seconds. */
export function clockWords(ms: number): string {
  const s = Math.max(0, Math.ceil(ms / 1000));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}
