import { say } from "./ways";

// The day: panels coloured and numbered by minutes left, redrawn as time is scrubbed.
type Quarter = { t: string; alt: number; az: number; air: number; rh: number; wind: number; sun: boolean; notes: string[] };
type Start = { fit: number; worse: number; stage: string | null; zone: string | null; say: string | null };
type Day = {
  number: number;
  zones: string[];
  now: number;
  best: number | null;
  quarters: Quarter[];
  /** Of each zone the place in a row of `dry`: zones that dry alike all day share one. */
  alike: number[];
  dry: Record<string, number[][]>;
  starts: Start[];
};
type Film = {
  first: number;
  most: number;
  panel: number;
  film: number;
  points: number[][];
  cooled: { first: number; points: number[][] } | null;
  say: string;
  sayMost: string;
  sayCooled: string | null;
  low: string;
  high: string;
  band: boolean;
  usable: string;
  helps: string | null;
  bias: string | null;
};

const NS = "http://www.w3.org/2000/svg";

export const day = () => {
  const data = JSON.parse(document.getElementById("day-data")!.textContent!) as Day;
  const labels = new Map<string, SVGTextElement>();
  const groups = new Map<string, SVGGElement>();
  return {
    quarter: data.now,
    carrier: "thin-foam",
    zone: "",
    clock: "",
    facts: "",
    notes: "",
    startSays: "",
    title: "Choose a zone",
    filmSays: "The film that is left against time, as it is and rinsed cool first.",
    helps: "",
    bias: "",
    turnAt: 0,
    init() {
      const root = (this as any).$root as HTMLElement;
      root.querySelectorAll("[hidden]").forEach((el) => el.removeAttribute("hidden"));
      const net = root.querySelector<SVGSVGElement>(".day-net svg")!;
      const layer = document.createElementNS(NS, "g");
      layer.setAttribute("class", "minutes");
      net.append(layer);
      net.querySelectorAll<SVGGElement>("[data-zone]").forEach((g) => {
        const id = g.dataset.zone!;
        groups.set(id, g);
        g.addEventListener("click", () => void this.choose(id));
        g.addEventListener("keydown", (e) => {
          if (e.key === "Enter" || e.key === " ") void this.choose(id);
        });
        if (g.dataset.room === undefined) return;
        const [x, y] = g.dataset.room.split(" ").map(Number);
        const text = document.createElementNS(NS, "text");
        text.setAttribute("x", String(x));
        text.setAttribute("y", String(y + 0.1));
        text.setAttribute("text-anchor", "middle");
        layer.append(text);
        labels.set(id, text);
      });
      this.draw();
    },
    pick() {
      const el = (this as any).$el as HTMLElement;
      this.carrier = el.dataset.carrier!;
      el.parentElement!.querySelectorAll("[data-carrier]").forEach((b) => b.setAttribute("aria-pressed", String(b === el)));
      this.draw();
      if (this.zone) void this.choose(this.zone);
    },
    byProduct() {
      const film = ((this as any).$el as HTMLSelectElement).value;
      if (film) ((this as any).$root as HTMLElement).querySelector<HTMLElement>(`[data-carrier="${film}"]`)?.click();
    },
    scrub() {
      this.quarter = Number(((this as any).$refs.time as HTMLInputElement).value);
      requestAnimationFrame(() => this.draw());
      clearTimeout(this.turnAt);
      if (this.zone) this.turnAt = window.setTimeout(() => void this.choose(this.zone), 200);
    },
    toBest() {
      if (data.best === null) return;
      ((this as any).$refs.time as HTMLInputElement).value = String(data.best);
      this.scrub();
    },
    turn() {
      const value = ((this as any).$el as HTMLInputElement).value;
      ((this as any).$root as HTMLElement).querySelector(".dial-car")?.setAttribute("transform", `rotate(${Number(value) || 0})`);
    },
    draw() {
      const q = data.quarters[this.quarter];
      const dry = data.dry[this.carrier][this.quarter];
      data.zones.forEach((id, i) => {
        const g = groups.get(id);
        if (!g) return;
        const s = dry[data.alike[i]];
        const band = s === undefined ? "dry-none" : s < 60 ? "dry-0" : s < 180 ? "dry-1" : s < 360 ? "dry-2" : s < 1200 ? "dry-3" : "dry-4";
        if (g.dataset.band !== band) {
          if (g.dataset.band) g.classList.remove(g.dataset.band);
          g.classList.add(band);
          g.dataset.band = band;
        }
        const label = labels.get(id);
        const words =
          s === undefined
            ? ""
            : s >= 1200
              ? ""
              : s < 60
                ? `${Math.max(5, Math.floor(s / 5) * 5)}s`
                : String(Math.floor(s / 30) / 2)
                    .replace(".5", "½")
                    .replace(/^0½/, "½");
        if (label && label.textContent !== words) label.textContent = words;
      });
      this.clock = q.t;
      this.facts = say(`${q.air} °C, ${q.rh} %, ${q.wind} m/s at the panel; sun ${q.alt > 0 ? `${Math.round(q.alt)}° high` : "down"}`);
      this.notes = q.notes.join("; ");
      const start = data.starts[this.quarter];
      this.startSays =
        (start.fit <= 0
          ? `Starting at ${q.t}: ${start.stage}.`
          : start.say
            ? `Starting at ${q.t}: ${start.say} (${start.stage?.toLowerCase()}).`
            : `Starting at ${q.t} nothing dries too soon.`) +
        (data.best === null || this.quarter === data.best
          ? data.best === null
            ? ""
            : " The best start of this day."
          : start.worse > 0
            ? ` ${start.worse} % less of the work fits than at ${data.quarters[data.best].t}.`
            : ` As good as ${data.quarters[data.best].t}.`);
      const sun = ((this as any).$root as HTMLElement).querySelector<SVGCircleElement>(".dial-sun")!;
      const r = (96 * (90 - q.alt)) / 90;
      sun.setAttribute("cx", String(r * Math.sin((q.az * Math.PI) / 180)));
      sun.setAttribute("cy", String(-r * Math.cos((q.az * Math.PI) / 180)));
      sun.style.display = q.alt > 0 ? "" : "none";
    },
    async choose(id: string) {
      this.zone = id;
      groups.forEach((g, key) => g.classList.toggle("drilled", key === id));
      const answer = await fetch(`/jobs/${data.number}/day?handler=Film&zone=${id}&carrier=${this.carrier}&quarter=${this.quarter}`).catch(
        () => null,
      );
      if (!answer?.ok || this.zone !== id) return;
      const film = (await answer.json()) as Film;
      const root = (this as any).$root as HTMLElement;
      this.title = say(`${id.replaceAll("-", " ")}, panel ${film.panel} °C`);
      this.helps = film.helps ?? "";
      this.bias = film.bias ?? "";
      this.filmSays = `First dry spots: ${film.say}${film.band ? ` (${film.low} to ${film.high})` : ""}. Rinse by ${film.usable}. Most of it: ${film.sayMost}.${film.sayCooled ? ` Rinsed cool first: ${film.sayCooled}.` : ""}`;
      const far = Math.min(1800, Math.max(120, film.first * 1.15, film.cooled ? film.cooled.first * 1.05 : 0));
      const x = (s: number) => 40 + (345 * Math.min(s, far)) / far;
      const y = (m: number) => 175 - (150 * m) / Math.max(1, film.film);
      const path = (points: number[][]) =>
        points
          .filter((p) => p[0] <= far)
          .map((p, i) => `${i ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`)
          .join("");
      root.querySelector(".film-now")!.setAttribute("d", path(film.points));
      root.querySelector(".film-cool")!.setAttribute("d", film.cooled ? path(film.cooled.points) : "");
      const axes = root.querySelector(".film-axes")!;
      const words = root.querySelector(".film-words")!;
      axes.replaceChildren();
      words.replaceChildren();
      const line = (x1: number, y1: number, x2: number, y2: number, cls: string) => {
        const l = document.createElementNS(NS, "line");
        for (const [k, v] of Object.entries({ x1, y1, x2, y2 })) l.setAttribute(k, String(v));
        l.setAttribute("class", cls);
        axes.append(l);
      };
      const text = (tx: number, ty: number, t: string, anchor = "middle") => {
        const e = document.createElementNS(NS, "text");
        e.setAttribute("x", String(tx));
        e.setAttribute("y", String(ty));
        e.setAttribute("text-anchor", anchor);
        e.textContent = t;
        words.append(e);
      };
      line(40, 175, 392, 175, "film-axis");
      line(40, 20, 40, 175, "film-axis");
      line(40, y(film.film * 0.35), 392, y(film.film * 0.35), "film-dry");
      text(392, y(film.film * 0.35) - 4, "spots dry", "end");
      text(44, 18, `${film.film} g/m²`, "start");
      const step = far > 900 ? 300 : far > 400 ? 120 : far > 150 ? 60 : 30;
      for (let s = step; s <= far; s += step) {
        line(x(s), 175, x(s), 181, "film-axis");
        text(x(s), 197, s % 60 ? `${s} s` : `${s / 60} min`);
      }
    },
  };
};
