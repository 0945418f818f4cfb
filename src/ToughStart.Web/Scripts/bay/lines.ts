import { rinseBy, type Line } from "../live/zone";
import type { Step } from "./document";
import { clockWords, urgencyOf } from "./flow";
import { esc } from "./text";

/**
 * The drying line. A film lies on the ground; its wet edge drains toward one post, the same for all of them: rinse by. What lies beyond
 * the post is where holes open. One scale of minutes for all, so that the edge nearest the post is the most urgent.
 */
const POST = 0.72;
const MINUTE = 26;
const MOST_MIN = 9;
/** Width of a letter of the words on a line, and how many are shown at least. */
const LETTER = 7.2;
const LEAST_WORDS = 18;

/** The shape of a film: thick where it was put on last, thin where it dries first. */
function body(x0: number, x1: number, ground: number, h: number): string {
  const r = Math.min(h / 2, 8);
  const lip = Math.max(3, h * 0.16);
  return (
    `M${x0 + r} ${ground}Q${x0 - r / 2} ${ground - h / 2} ${x0 + r} ${ground - h}` +
    `L${x1 - 2} ${ground - lip - 2}Q${x1} ${ground - lip} ${x1} ${ground}Z`
  );
}

export function lineSvg(
  line: Line,
  look: Step["look"],
  now: number,
  words: string,
  who: string,
  width: number,
  big: boolean,
): string {
  const height = big ? 132 : 50;
  const ground = height - (big ? 34 : 8);
  const h = big ? 74 : 22;
  const post = width * POST;
  const by = rinseBy(line);
  const left = Math.max(-0.4, (by - now) / 60_000);
  const beyond = Math.min(width - post - 14, 34 + Math.max(0, Math.min(3, (line.dry - by) / 60_000)) * 8);
  const x0 = post - Math.min(left, MOST_MIN) * MINUTE;
  const x1 = post + beyond;
  const state = urgencyOf(line, now);
  const circle = (x: number, y: number, r: number): string =>
    `<circle cx="${x.toFixed(1)}" cy="${y.toFixed(1)}" r="${r.toFixed(1)}"/>`;
  const holes = Array.from({ length: 5 }, (_, i) => {
    const x = post + 10 + (i * (beyond - 16)) / 4;
    return circle(x, ground - 5 - (i % 2) * (big ? 8 : 3), big ? 3 + i * 1.2 : 1.6 + i * 0.5);
  }).join("");
  const bubbles = Array.from({ length: big ? 16 : 9 }, (_, i) => {
    const t = (i * 0.618) % 1;
    const y = ground - 4 - ((i * 0.37) % 1) * h * 0.55 * (1 - t * 0.6);
    return circle(x0 + 8 + t * Math.max(0, post - x0 - 10), y, big ? 2 + (i % 4) : 1 + (i % 3) * 0.6);
  }).join("");
  const inside =
    look === "foam"
      ? `<g class="film-bubbles">${bubbles}</g>`
      : `<path class="film-gloss" d="M${x0 + 12} ${ground - h * 0.78}L${Math.max(x0 + 14, post - 12)} ${ground - h * 0.42}"/>`;
  const workedAt = post - ((by - line.first - line.dwell) / 60_000) * MINUTE;
  const mark =
    big && line.first + line.dwell > now && workedAt > 8 && workedAt < post - 4
      ? `<path class="line-worked" d="M${workedAt.toFixed(1)} ${ground - h - 8}V${ground}"/>` +
        `<path class="line-worked-foot" d="M${workedAt - 7} ${ground + 1}h14l-7 9Z"/>`
      : "";
  // Words end where the film begins.
  const room = Math.max(LEAST_WORDS, Math.floor((Math.min(x0, post - 30) - 16) / LETTER));
  const full = who ? `${words} · ${who}` : words;
  const short = full.length <= room ? full : `${full.slice(0, room - 1)}…`;
  const jag = `l5 ${h / 3}l-5 ${h / 3}l5 ${h / 3}`;
  const cut = left > MOST_MIN ? `<path class="line-cut" d="M${x0 - 6} ${ground - h}${jag}"/>` : "";
  const rest = clockWords(by - now);
  const [digits, told] =
    state === "dried" ? ["dried", "dried"] : state === "now" ? ["now", "rinse now"] : [rest, `rinse within ${rest}`];
  const label = [words, who, told].filter((w) => w !== "").join(", ");
  const cls = `line is-${state} film-${look}${big ? " is-big" : ""}`;
  return (
    `<svg class="${cls}" viewBox="0 0 ${width} ${height}" role="img" aria-label="${esc(label)}">` +
    `<path class="film" d="${body(Math.min(x0, x1 - 10), x1, ground, h)}"/>${inside}<g class="film-holes">${holes}</g>` +
    `${cut}${mark}<path class="line-ground" d="M0 ${ground}H${width}"/>` +
    `<path class="line-post" d="M${post} ${big ? 4 : 0}V${height}"/>` +
    (big
      ? `<path class="line-post-cap" d="M${post - 16} 4h32"/><text class="line-by" x="${post + 8}" y="${ground + 22}">rinse by</text>`
      : `<text class="line-words" x="10" y="${ground - 8}">${esc(short)}</text>` +
        `<text class="line-left" x="${width - 8}" y="${ground - 7}" text-anchor="end">${digits}</text>`) +
    `</svg>`
  );
}
