import { HttpTransportType, HubConnectionBuilder, LogLevel } from "@microsoft/signalr";
import type { Line } from "../live/zone";
import type { Doc, Step } from "./document";
import { clockWords, urgencyOf } from "./flow";
import { lineSvg } from "./lines";
import { netSvg } from "./view";

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
  lines: Wet[];
  net: Doc["net"];
}

interface WallDoc {
  now: number;
  vehicles: Vehicle[];
}

const root = document.querySelector<HTMLElement>("[data-wall]")!;
const POLL_MS = 10_000;
const SHAPES = ["round", "square", "kite"];
let doc: WallDoc | null = null;
let offset = 0;
let heard = 0;
let before = "";

const esc = (s: string): string => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

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

function badge(name: string, at: number): string {
  return `<span class="wall-person"><i class="is-${SHAPES[at % SHAPES.length]}">${esc(name.charAt(0))}</i>${esc(name)}</span>`;
}

/** The whole vehicle with what is wet on it; the picture is drawn anew only when that changes. */
function netOf(v: Vehicle, now: number): string {
  const late = v.lines.filter((w) => ["now", "dried"].includes(urgencyOf(w.line, now))).flatMap((w) => w.pieces);
  const [x, y, w, h] = v.net.box;
  const svg = netSvg({ net: v.net, steps: [] }, v.lines.flatMap((l) => l.pieces), v.lines[0]?.look ?? "plain", late);
  const words = v.lines.length === 0 ? `${v.name}: nothing is wet` : `${v.name}: wet are ${v.lines.map((l) => l.words).join(", ")}`;
  return svg.replace(/aria-label="[^"]*"/, `aria-label="${esc(words)}"`).replace(/viewBox="[^"]*"/, `viewBox="${x - 0.1} ${y - 0.1} ${w + 0.2} ${h + 0.2}"`);
}

function vehicle(v: Vehicle, now: number, width: number, people: string[]): string {
  const lines = v.lines
    .map((w) => {
      const urgency = urgencyOf(w.line, now);
      const late = urgency === "now" || urgency === "dried";
      const by = Math.min(w.line.usable, w.line.max);
      const plate = late
        ? `<b class="wall-late">${urgency === "dried" ? "dried" : `late ${clockWords(now - by)}`}</b>`
        : urgency === "warn"
          ? `<b class="wall-warn">${clockWords(by - now)}</b>`
          : "";
      return `<div class="wall-line is-${urgency}">${plate}${lineSvg(w.line, w.look, now, `${w.words}, ${w.agent}`, w.who, width, late)}${late ? `<span class="wall-words">${esc(w.words)}, ${esc(w.agent)} · ${esc(w.who)}</span>` : ""}</div>`;
    })
    .join("");
  const crew = v.crew.map((c) => badge(c.who, people.indexOf(c.who))).join("");
  return (
    `<section class="wall-vehicle${v.stops.length > 0 ? " is-stopped" : ""}"><div class="wall-net">${netOf(v, now)}</div><a class="wall-head" href="/jobs/${v.job}/bay"><h2>${esc(v.name)}</h2>` +
    `<p>${esc(v.goal)} · ${v.done} of ${v.steps} steps</p>` +
    (v.stops.length > 0 ? `<p class="wall-stop">Stop: ${esc(v.stops.join(", "))}</p>` : "") +
    `<p class="wall-crew">${crew || '<span class="wall-nobody">nobody here</span>'}</p></a>` +
    `<div class="wall-lines">${lines || '<p class="wall-dry">nothing is wet</p>'}</div></section>`
  );
}

function draw(): void {
  if (!doc) return;
  const now = Math.round(performance.now() + offset);
  const width = Math.max(300, Math.min(900, root.clientWidth * 0.6));
  const people = [...new Set(doc.vehicles.flatMap((v) => v.crew.map((c) => c.who)))].sort();
  const quiet = Math.round((performance.now() - heard) / 1000);
  const html =
    `<header class="wall-top"><b>${new Date(now).toTimeString().slice(0, 5)}</b><span>${doc.vehicles.length} in work</span>` +
    `<span class="${quiet > 30 ? "is-away" : ""}">${quiet > 30 ? `the server was last heard ${quiet} s ago` : "live"}</span></header>` +
    (doc.vehicles.map((v) => vehicle(v, now, width, people)).join("") || `<p class="wall-none">No job is in work. One begins on its Bay.</p>`);
  if (html !== before) {
    root.innerHTML = html;
    before = html;
  }
  document.documentElement.dataset.ready = "yes";
}

async function listen(): Promise<void> {
  const hub = new HubConnectionBuilder().withUrl("/hub/bay", { skipNegotiation: true, transport: HttpTransportType.WebSockets }).withAutomaticReconnect().configureLogging(LogLevel.None).build();
  hub.on("head", () => void ask());
  hub.onreconnected(() => hub.invoke("JoinWall"));
  try {
    await hub.start();
    await hub.invoke("JoinWall");
  } catch {
    // It asks by itself meanwhile.
  }
}

void ask();
setInterval(() => void ask(), POLL_MS);
setInterval(draw, 1000);
void listen();
