import { rinseBy, type Line } from "../live/zone";
import type { Doc, Step } from "./document";
import { clockWords, urgencyOf } from "./flow";
import { listen } from "./hub";
import { lineSvg } from "./lines";
import { netSvg } from "./view";
import { el, esc } from "./text";

/** All open vehicles on one wall: what is wet, who works, what is late. It only looks. */
interface Wet {
  words: string;
  agent: string;
  look: Step["look"];
  who: string;
  pieces: string[];
  line: Line;
}

interface Vehicle {
  job: number;
  name: string;
  goal: string;
  done: number;
  steps: number;
  crew: { who: string; step: string }[];
  stops: string[];
  /** Phones nobody has heard for a while: what they made since nobody knows. */
  away: { who: string; heard: number }[];
  lines: Wet[];
  /** What dries before anybody can be at it, and who is nearest. */
  late: string[];
  net: Doc["net"];
}

interface WallDoc {
  now: number;
  vehicles: Vehicle[];
}

const root = document.querySelector<HTMLElement>("[data-wall]")!;
const POLL_MS = 10_000;
/** A server not heard for so long is away. */
const AWAY_S = 30;
/** Films of one vehicle that are drawn. */
const MOST_LINES = 6;
const SHAPES = ["round", "square", "kite"];
let doc: WallDoc | null = null;
let offset = 0;
let heard = 0;
let before = "";

async function ask(): Promise<void> {
  try {
    const asked = performance.now();
    const answer = await fetch("/api/v1/wall", { headers: { Accept: "application/json" } });
    if (!answer.ok) return;
    doc = (await answer.json()) as WallDoc;
    const came = performance.now();
    offset = doc.now - (asked + came) / 2;
    heard = came;
    draw();
  } catch {
    draw();
  }
}

const clockOf = (ms: number): string => new Date(ms).toTimeString().slice(0, 5);

function badge(name: string, at: number): string {
  return el("span", "wall-person", el("i", `is-${SHAPES[at % SHAPES.length]}`, esc(name.charAt(0))) + esc(name));
}

/** The whole vehicle with what is wet on it. */
function netOf(v: Vehicle, now: number): string {
  const late = v.lines.filter((w) => ["now", "dried"].includes(urgencyOf(w.line, now))).flatMap((w) => w.pieces);
  const words = v.lines.length === 0 ? "nothing is wet" : `wet are ${v.lines.map((l) => l.words).join(", ")}`;
  const lit = v.lines.flatMap((l) => l.pieces);
  return netSvg({ net: v.net, steps: [] }, lit, v.lines[0]?.look ?? "plain", { late, whole: true, words: `${v.name}: ${words}` });
}

function lineOf(w: Wet, now: number, width: number): string {
  const urgency = urgencyOf(w.line, now);
  const late = urgency === "now" || urgency === "dried";
  const by = rinseBy(w.line);
  const words = `${w.words}, ${w.agent}`;
  const plate = late
    ? el("b", "wall-late", urgency === "dried" ? "dried" : `late ${clockWords(now - by)}`)
    : urgency === "warn"
      ? el("b", "wall-warn", clockWords(by - now))
      : "";
  const said = late ? el("span", "wall-words", esc(`${words} · ${w.who}`)) : "";
  return el("div", `wall-line is-${urgency}`, plate + lineSvg(w.line, w.look, now, words, w.who, width, late) + said);
}

function vehicle(v: Vehicle, now: number, width: number, people: string[]): string {
  const crew = v.crew.map((c) => badge(c.who, people.indexOf(c.who))).join("");
  const head =
    el("h2", "", esc(v.name)) +
    el("p", "", `${esc(v.goal)} · ${v.done} of ${v.steps} steps`) +
    (v.stops.length > 0 ? el("p", "wall-stop", `Stop: ${esc(v.stops.join(", "))}`) : "") +
    v.late.slice(0, 2).map((words) => el("p", "wall-stop", esc(words))).join("") +
    v.away.map((a) => el("p", "wall-away", `${esc(a.who)}'s phone unheard since ${clockOf(a.heard)}`)).join("") +
    el("p", "wall-crew", crew || el("span", "wall-nobody", "nobody here"));
  // What is most urgent is drawn, the rest is counted: a wall is read from across the bay.
  const lines = v.lines.slice(0, MOST_LINES).map((w) => lineOf(w, now, width)).join("");
  const more = v.lines.length - MOST_LINES;
  return el(
    "section",
    `wall-vehicle${v.stops.length > 0 ? " is-stopped" : ""}`,
    el("div", "wall-net", netOf(v, now)) +
      el("a", "wall-head", head, `href="/jobs/${v.job}/bay"`) +
      el("div", "wall-lines", (lines || el("p", "wall-dry", "nothing is wet")) + (more > 0 ? el("p", "wall-dry", `and ${more} more, each later`) : "")),
  );
}

function draw(): void {
  if (!doc) return;
  const now = Math.round(performance.now() + offset);
  const width = Math.max(300, Math.min(900, root.clientWidth * 0.6));
  const people = [...new Set(doc.vehicles.flatMap((v) => v.crew.map((c) => c.who)))].sort();
  const quiet = Math.round((performance.now() - heard) / 1000);
  const away = quiet > AWAY_S;
  const top =
    el("b", "", clockOf(now)) +
    el("span", "", `${doc.vehicles.length} in work`) +
    el("span", away ? "is-away" : "", away ? `the server was last heard ${quiet} s ago` : "live");
  const vehicles = doc.vehicles.map((v) => vehicle(v, now, width, people)).join("");
  const html =
    el("header", "wall-top", top) + (vehicles || el("p", "wall-none", "No job is in work. One begins on its Bay."));
  if (html !== before) {
    root.innerHTML = html;
    before = html;
  }
  document.documentElement.dataset.ready = "yes";
}

void ask();
setInterval(() => void ask(), POLL_MS);
setInterval(draw, 1000);
void listen(["JoinWall"], () => void ask());
