import Alpine from "@alpinejs/csp";
import { asKept, asTyped, say } from "./ways";
import { partOf, rebase, same, setPart } from "./merge";
import { focusZone, neighbour, zoneAt, zonesOf, type ZoneElement } from "./net";
import {
  DamageDecision,
  ZoneLimits,
  ZoneMost,
  type DamageKind,
  type Finding,
  type FindingAge,
  type FindingCertainty,
  type FindingContaminant,
  type SurveyGoal,
  type Survey as SurveyDoc,
  type Zone,
} from "./survey-document";

// The Survey station: paint findings on the unfolded vehicle.
type StoryFinding = Pick<Finding, "contaminant" | "grade" | "age">;
interface Kind {
  name: string;
  layer: number;
  covers: boolean;
  families: string[];
  ages: boolean;
  inside: boolean;
  tells: string;
  danger: string;
}
interface PageData {
  notes: { id: string; zone: string; words: string }[];
  mayEdit: boolean;
  number: number;
  revision: number;
  mostDrawn: number;
  survey: SurveyDoc;
  kinds: Record<string, Kind>;
  families: Record<string, string[]>;
  other: Record<string, string>;
  sets: Record<string, string[]>;
  stories: Record<string, Record<string, StoryFinding[]>>;
  surfaces: Record<string, { name: string; family: string }>;
  zoneKinds: Record<string, string>;
  mayBe: Record<string, { standard: string; options: string[] }>;
  film: { thin: number; refinish: number; off: number; spots: number };
}

/** Text of a document. Reading it through the reactive proxy would cost a hundred times as much. */
const text = (v: unknown): string => JSON.stringify(Alpine.raw(v));
const clone = <T>(v: T): T => JSON.parse(text(v)) as T;
/** What a document says, however it is written: its id, its revision, the order of its parts and what is empty do not count. */
const content = (doc: SurveyDoc): string => {
  const plain = (v: unknown): unknown =>
    Array.isArray(v)
      ? v.map(plain)
      : v !== null && typeof v === "object"
        ? Object.fromEntries(
            Object.entries(v)
              .filter(([k, x]) => k !== "id" && k !== "revision" && x != null && !(Array.isArray(x) && x.length === 0))
              .sort(([a], [b]) => (a < b ? -1 : 1))
              .map(([k, x]) => [k, plain(x)]),
          )
        : v;
  return JSON.stringify(plain(JSON.parse(text(doc))));
};
const gradeWords = ["looked, none", "trace", "light", "heavy", "caked"];
const decisions = ["", ...DamageDecision] as const;
const zoneNumbers: Record<string, [number, number, string]> = {
  refinishDays: [...ZoneLimits.refinishDays, "days since the respray"],
  measuredC: [...ZoneLimits.measuredC, "panel temperature"],
  partShare: [0, 100, "share of the zone in %"],
};
const mostReadings = ZoneMost.filmUm;
const svgNs = "http://www.w3.org/2000/svg";

export const survey = () => ({
  data: null as unknown as PageData,
  doc: null as unknown as SurveyDoc,
  saved: "",
  /** The brush in hand; empty = none, a tap only shows a zone. */
  kind: "" as FindingContaminant | "",
  grade: 3,
  age: "" as FindingAge | "",
  certainty: "seen" as FindingCertainty,
  only: "",
  past: [] as string[],
  future: [] as string[],
  here: "",
  said: "",
  state: "Saved",
  busy: false,
  failed: false,
  merged: null as SurveyDoc | null,
  conflicts: [] as string[],
  theirRevision: 0,
  timer: 0,
  keeping: 0,
  retry: 0,
  conflictWords: "",
  differences: [] as { what: string; mine: string; theirs: string }[],
  painting: false,
  /** A finger paints as it goes instead of scrolling. */
  stroking: false,
  touching: false,
  zoom: 1,
  touched: "",
  side: "zone",
  hidden: [] as string[],
  zoneProblem: "",

  get self() {
    return this as any;
  },
  get net(): HTMLElement {
    return this.self.$refs.net as HTMLElement;
  },

  init() {
    this.data = JSON.parse(document.getElementById("survey-data")!.textContent!) as PageData;
    this.doc = this.data.survey;
    this.saved = text(this.doc);
    this.state = this.data.mayEdit ? `Saved, revision ${this.data.revision}` : "You may look; an owner or technician paints";
    // Painting that never reached the shop goes on from the revision it was made on; the merge sorts out the rest.
    const kept = localStorage.getItem(this.keepKey());
    if (kept && this.data.mayEdit) {
      const { revision, doc } = JSON.parse(kept) as { revision: number; doc: SurveyDoc };
      if (revision <= this.data.revision && JSON.stringify(doc) !== this.saved) {
        this.doc = doc;
        this.data.revision = revision;
        this.saved = "";
        this.state = "Unsaved painting from before was kept; sending it";
      }
    }
    this.net.addEventListener("pointerdown", (e) => this.down(e));
    this.net.addEventListener("pointermove", (e) => this.move(e));
    window.addEventListener("pointerup", () => this.up());
    this.net.addEventListener("click", (e) => this.tap(e));
    this.net.addEventListener("keydown", (e) => this.key(e));
    this.net.addEventListener("focusin", (e) => this.arrive(zoneAt(e.target)));
    window.addEventListener("keydown", (e) => {
      if (e.key === "Escape" && this.kind && !(this.self.$refs.conflict as HTMLDialogElement).open) this.putDown();
      else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        e.shiftKey ? this.redo() : this.undo();
      } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "y") {
        e.preventDefault();
        this.redo();
      }
    });
    window.addEventListener("beforeunload", (e) => {
      if (!this.isClean()) e.preventDefault();
    });
    // The last strokes can be taken back after a reload too, as long as nobody else has saved since.
    const before = sessionStorage.getItem(`undo-${this.keepKey()}`);
    if (before) {
      const { doc, past } = JSON.parse(before) as { doc: string; past: string[] };
      if (doc === content(this.doc)) this.past = past;
    }
    (this.self.$root as HTMLElement).querySelectorAll("[hidden]").forEach((el) => el.removeAttribute("hidden"));
    window.addEventListener("online", () => this.saveSoon(0));
    this.redraw();
    this.saveSoon();
  },

  keepKey() {
    return `survey-${this.data.number}`;
  },
  el(): HTMLElement {
    return this.self.$el as HTMLElement;
  },
  isKind() {
    return String(this.el().dataset.kind === this.kind);
  },
  isGrade() {
    return String(Number(this.el().dataset.grade) === this.grade);
  },
  isGoal() {
    return String(this.el().dataset.goal === this.doc.goal);
  },
  allLayers() {
    return String(this.only === "");
  },
  oneLayer() {
    return String(this.only !== "");
  },
  noBrush() {
    return this.kind === "";
  },
  brushWords() {
    if (!this.data.mayEdit) return "Choose a zone to see what was found.";
    if (this.kind === "") return "Looking: choose a zone or a brush.";
    const kind = this.data.kinds[this.kind];
    return `Brush: ${kind.name.toLowerCase()}, ${this.grade < 0 ? "not looked" : gradeWords[this.grade]}${kind.tells && ` · ${kind.tells}`}`;
  },
  putDown() {
    this.kind = "";
    this.only = "";
    this.stroking = false;
    this.said = "Brush put down";
    this.redraw();
  },
  isStroking() {
    return String(this.stroking);
  },
  toggleStroking() {
    this.stroking = !this.stroking;
    this.said = this.stroking ? "A finger paints now and does not scroll" : "A finger scrolls again";
  },
  netClass() {
    return `net-wrap${this.stroking ? " stroking" : ""}${this.zoom > 1 ? " zoomed" : ""}`;
  },
  zoomWords() {
    return `${this.zoom}×`;
  },
  larger() {
    this.zoomTo(Math.min(16, this.zoom * 2));
  },
  smaller() {
    this.zoomTo(Math.max(1, this.zoom / 2));
  },
  /** The chosen zone, else the middle, stays where it is. */
  zoomTo(zoom: number) {
    const wrap = this.net;
    const k = zoom / this.zoom;
    const frame = wrap.getBoundingClientRect();
    const zone = this.here ? wrap.querySelector(`[data-zone="${this.here}"]`)?.getBoundingClientRect() : undefined;
    const x = wrap.scrollLeft + (zone ? zone.left + zone.width / 2 - frame.left : frame.width / 2);
    const y = wrap.scrollTop + (zone ? zone.top + zone.height / 2 - frame.top : frame.height / 2);
    this.zoom = zoom;
    wrap.style.setProperty("--zoom", String(zoom));
    wrap.scrollTo(x * k - frame.width / 2, y * k - frame.height / 2);
  },
  noUndo() {
    return this.past.length === 0;
  },
  noRedo() {
    return this.future.length === 0;
  },
  isClean() {
    return text(this.doc) === this.saved;
  },
  clean() {
    return this.busy || this.isClean();
  },
  stateClass() {
    return this.failed ? "saved saved-bad" : this.isClean() ? "saved saved-ok" : "saved saved-no";
  },

  pickKind() {
    const kind = this.el().dataset.kind as FindingContaminant;
    if (kind === this.kind) return this.putDown();
    this.kind = kind;
    if (this.only) this.only = this.kind;
    this.redraw();
  },
  pickGrade() {
    this.grade = Number(this.el().dataset.grade);
  },
  isSide() {
    return String(this.el().dataset.side === this.side);
  },
  onSide() {
    return this.el().dataset.side === this.side;
  },
  pickSide() {
    this.side = this.el().dataset.side!;
  },
  nothing() {},

  /** Every kind on the vehicle with a switch for its texture. */
  drawLayers() {
    const list = this.self.$refs.layerList as HTMLElement;
    const kinds = [...new Set(this.doc.zones.flatMap((z) => z.findings.filter((f) => f.grade > 0).map((f) => f.contaminant)))].sort(
      (a, b) => this.data.kinds[a]?.layer - this.data.kinds[b]?.layer,
    );
    const now = kinds.map((k) => k + (this.hidden.includes(k) ? "-" : "+")).join();
    if (list.dataset.now === now) return;
    list.dataset.now = now;
    list.replaceChildren(
      ...kinds.map((k) => {
        const label = document.createElement("label");
        const box = document.createElement("input");
        box.type = "checkbox";
        box.checked = !this.hidden.includes(k);
        box.addEventListener("change", () => {
          this.hidden = box.checked ? this.hidden.filter((h) => h !== k) : [...this.hidden, k];
          this.redraw();
        });
        label.append(box, " " + (this.data.kinds[k]?.name ?? k));
        return label;
      }),
    );
  },

  /** Paints the chosen kind and grade on a whole set of zones. */
  paintSet() {
    const set = this.data.sets[this.el().dataset.set!];
    const brush = this.kind;
    if (brush === "") {
      this.said = this.zoneProblem = "Pick up a brush first: choose what sits there and how much.";
      return;
    }
    // Nobody who paints many zones at once means sap behind a shut door.
    const meant = (id: string) => this.grade <= 0 || this.data.kinds[brush].inside || this.data.zoneKinds[id] !== "shut";
    this.change(() => set.filter((id) => this.fits(id) && meant(id)).forEach((id) => this.paint(id)));
    this.said = `${this.data.kinds[brush].name} ${gradeWords[Math.max(0, this.grade)]} on ${set.length} zones`;
  },
  /** Paints a story as suspected, only where nothing is said of that kind yet. */
  paintStory() {
    const story = this.data.stories[this.el().dataset.story!];
    this.el().closest("details")?.removeAttribute("open");
    this.change(() => {
      for (const [id, findings] of Object.entries(story)) {
        const zone = this.zoneFor(id);
        for (const f of findings) {
          if (zone.findings.some((g) => g.contaminant === f.contaminant)) continue;
          zone.findings.push({ contaminant: f.contaminant, grade: f.grade, ...(f.age && { age: f.age }), certainty: "suspected" });
        }
        zone.findings.sort((a, b) => (a.contaminant < b.contaminant ? -1 : 1));
      }
    });
    this.said = "Story painted as suspected";
  },
  /** This zone's findings, surface and water onto the same zone of the other side. */
  mirror() {
    const other = this.here ? this.data.other[this.here] : undefined;
    if (!other) {
      this.said = this.here ? `${this.here.replaceAll("-", " ")} has no other side` : "Choose a zone first";
      this.zoneProblem = this.said;
      return;
    }
    this.change(() => {
      const from = this.zoneDoc(this.here);
      const to = this.zoneFor(other);
      to.findings = clone(from?.findings ?? []);
      if (!from) return;
      const { surface, parts, partShare, goal, protection, water } = clone(from);
      Object.assign(to, JSON.parse(JSON.stringify({ surface, parts, partShare, goal, protection, water })));
    });
    this.said = `${other.replaceAll("-", " ")} is now the same`;
  },

  hasZone() {
    return this.here !== "";
  },
  filmWords() {
    const film = ((this.here && this.zoneDoc(this.here)?.filmUm) || []) as number[];
    if (film.length === 0) return "";
    const sorted = [...film].sort((a, b) => a - b);
    const mid = sorted.length >> 1;
    const median = sorted.length % 2 ? sorted[mid] : (sorted[mid - 1] + sorted[mid]) / 2;
    const f = this.data.film;
    const says =
      median < f.thin || sorted[0] < f.thin
        ? `thin, ${sorted[0]} µm in one spot: no correction without a word`
        : median > f.refinish
          ? "suspected refinish"
          : film.some((um) => Math.abs(um - median) > f.off)
            ? "one spot far off: suspected spot repair"
            : film.length < f.spots
              ? `measure ${f.spots} spots to be sure`
              : "";
    return `median ${median} µm of ${film.length}${says && `: ${says}`}`;
  },
  /** Takes readings from the gauge as they come; five spots for paint, one for temperature. */
  readGauge() {
    const kind = this.el().dataset.gauge!;
    const zone = this.here;
    if (!zone) return;
    const wanted = kind === "film" ? this.data.film.spots : 1;
    const taken: number[] = [];
    const stream = new EventSource(`/api/v1/jobs/${this.data.number}/gauges/${kind}?zone=${encodeURIComponent(zone)}`);
    stream.addEventListener("reading", (e) => {
      const { value, source } = JSON.parse((e as MessageEvent<string>).data) as { value: number; source: string };
      taken.push(value);
      this.zoneProblem = `${source}: ${taken.join(" ")}`;
      if (taken.length < wanted) return;
      stream.close();
      this.change(() => {
        const at = this.zoneFor(zone);
        if (kind === "film") at.filmUm = [...(at.filmUm ?? []), ...taken].slice(-mostReadings);
        else {
          at.measuredC = taken[0];
          delete at.measuredAt;
        }
      });
    });
    stream.addEventListener("error", () => {
      stream.close();
      this.zoneProblem = "The gauge does not answer. Type the reading instead.";
    });
  },
  zoneNotes() {
    return this.data.notes.filter((n) => n.zone === this.here);
  },
  async addNote() {
    const input = this.self.$refs.note as HTMLInputElement;
    const words = input.value.trim();
    if (!words || !this.here) return;
    const zone = this.here;
    const answer = await fetch(`/api/v1/jobs/${this.data.number}/notes`, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRF-Token": document.querySelector<HTMLMetaElement>("meta[name=csrf]")!.content },
      body: JSON.stringify({ zone, words }),
    }).catch(() => null);
    const body = await answer?.json().catch(() => null);
    if (!answer?.ok) {
      this.zoneProblem = body?.detail ?? "The note was not kept: no connection. It still stands in the field.";
      return;
    }
    this.data.notes = [{ id: body.id as string, zone, words }, ...this.data.notes];
    input.value = "";
  },
  damageOf(kind: string): DamageDecision | "" {
    return (this.here ? (this.zoneDoc(this.here)?.damage ?? []) : []).find((d) => d.kind === kind)?.decision ?? "";
  },
  damageDecision() {
    return this.damageOf(this.el().dataset.damage!);
  },
  damageWords() {
    const kind = this.el().dataset.damage!;
    const decision = this.damageOf(kind);
    return kind.replaceAll("-", " ") + (decision ? `: ${decision}` : "");
  },
  cycleDamage() {
    const kind = this.el().dataset.damage as DamageKind;
    if (!this.here) return;
    const next = decisions[(decisions.indexOf(this.damageOf(kind)) + 1) % decisions.length];
    this.change(() => {
      const zone = this.zoneFor(this.here);
      const rest = (zone.damage ?? []).filter((d) => d.kind !== kind);
      if (next) rest.push({ kind, decision: next });
      rest.sort((a, b) => (a.kind < b.kind ? -1 : 1));
      if (rest.length) zone.damage = rest;
      else delete zone.damage;
    });
  },
  /** Puts what is known of the zone into its form. */
  fillZone() {
    const form = this.self.$refs.zoneForm as HTMLFormElement;
    this.zoneProblem = "";
    if (!this.here) return;
    const zone = this.zoneDoc(this.here);
    const kind = this.data.mayBe[this.data.zoneKinds[this.here]];
    const option = (value: string, words: string) => {
      const o = document.createElement("option");
      o.value = value;
      o.textContent = words;
      return o;
    };
    const field = (name: string) => form.querySelector<HTMLInputElement | HTMLSelectElement>(`[data-field="${name}"]`)!;
    field("surface").replaceChildren(
      option("", `assumed: ${this.data.surfaces[kind.standard].name}`),
      ...kind.options.map((s) => option(s, this.data.surfaces[s].name)),
      option("unknown", "unknown"),
    );
    field("part").replaceChildren(option("", "all one surface"), ...kind.options.map((s) => option(s, this.data.surfaces[s].name)));
    for (const name of ["surface", "goal", "protection", "water", "softness", "refinishDays"] as const)
      field(name).value = String(zone?.[name] ?? "");
    field("measuredC").value = zone?.measuredC === undefined ? "" : asTyped(zone.measuredC, "°C");
    field("part").value = zone?.parts?.[0] ?? "";
    field("partShare").value = zone?.partShare === undefined ? "" : String(Math.round(Number(zone.partShare) * 100));
    field("filmUm").value = (zone?.filmUm ?? []).join(" ");
  },
  editZone() {
    const input = (this.self.$event as Event).target as HTMLInputElement;
    const name = input.dataset.field;
    if (!name || !this.here) return;
    const text = input.value.trim();
    this.zoneProblem = "";
    let value: unknown = text === "" ? undefined : text;
    if (name === "filmUm") {
      const [least, most] = ZoneLimits.filmUm;
      const film = text
        .split(/[\s;]+/)
        .filter(Boolean)
        .map((t) => Number(t.replace(",", ".")));
      if (film.some((n) => !Number.isFinite(n) || n < least || n > most) || film.length > mostReadings) {
        this.zoneProblem = `Paint: numbers in µm from ${least} to ${most}, apart by spaces, at most ${mostReadings}. Nothing was changed.`;
        return;
      }
      value = film.length ? film : undefined;
    } else if (name in zoneNumbers && text !== "") {
      const [low, high, words] = zoneNumbers[name];
      const unit = input.dataset.in ?? "";
      const n = asKept(Number(text.replace(",", ".")), unit);
      if (!Number.isFinite(n) || n < low || n > high) {
        const bounds = unit ? say(`${low} ${unit} to ${high} ${unit}`) : `${low} to ${high}`;
        this.zoneProblem = `${words}: a number from ${bounds}. Nothing was changed.`;
        return;
      }
      value = name === "partShare" ? n / 100 : n;
    }
    this.change(() => {
      const zone = this.zoneFor(this.here);
      const key = name === "part" ? "parts" : name;
      const fields = zone as unknown as Record<string, unknown>;
      if (name === "part") value = text ? [text] : undefined;
      if (value === undefined) delete fields[key];
      else fields[key] = value;
      if (key === "surface" || key === "parts") this.settle(zone);
    });
  },
  /** A zone of another material: findings that cannot sit on it go. */
  settle(zone: Zone) {
    const kind = this.data.mayBe[this.data.zoneKinds[zone.zone]];
    const main = zone.surface && zone.surface !== "unknown" ? zone.surface : kind.standard;
    const families = [main, ...(zone.parts ?? [])].map((s) => this.data.surfaces[s].family);
    this.data.families[zone.zone] = families;
    const before = zone.findings.length;
    zone.findings = zone.findings.filter((f) => this.data.kinds[f.contaminant]?.families.some((x) => families.includes(x)));
    if (zone.findings.length < before) this.zoneProblem = "Findings that cannot sit on this surface were taken off; undo brings them back.";
  },
  zoneFor(id: string): Zone {
    let zone = this.zoneDoc(id);
    if (!zone) {
      zone = { zone: id, findings: [], tests: [] };
      this.doc.zones.push(zone);
      this.doc.zones.sort((a, b) => (a.zone < b.zone ? -1 : 1));
    }
    return zone;
  },

  showAll() {
    this.only = "";
    this.redraw();
  },
  showOne() {
    this.only = this.kind;
    this.redraw();
  },
  pickGoal() {
    const goal = this.el().dataset.goal as SurveyGoal;
    this.change(() => (this.doc.goal = goal));
  },
  pickRule() {
    const select = this.el() as HTMLSelectElement;
    const rule = select.dataset.rule!;
    const value = select.value;
    this.change(() => setPart(this.doc, `house.${rule}`, value));
  },

  mayPaint(): boolean {
    if (!this.data.mayEdit) this.said = this.zoneProblem = "Your account may look but not change; ask an owner or a technician.";
    return this.data.mayEdit;
  },
  /** One undoable step. */
  change(work: () => void) {
    if (!this.mayPaint()) return;
    const before = text(this.doc);
    work();
    if (text(this.doc) === before) return;
    this.past.push(before);
    if (this.past.length > 200) this.past.shift();
    this.future = [];
    this.after();
    this.redraw();
  },
  after() {
    sessionStorage.setItem(`undo-${this.keepKey()}`, JSON.stringify({ doc: content(this.doc), past: Alpine.raw(this.past).slice(-20) }));
    this.failed = false;
    this.state = this.isClean() ? `Saved, revision ${this.data.revision}` : "Saving soon …";
    this.drawLayers();
    this.fillZone();
    this.rules();
    this.saveSoon();
  },
  /** Saves a moment after the last stroke; tries again by itself while there is no connection. */
  saveSoon(after = 900) {
    clearTimeout(this.timer);
    clearTimeout(this.keeping);
    this.keeping = window.setTimeout(() => this.keep(), 60);
    if (this.data.mayEdit && !this.isClean()) this.timer = window.setTimeout(() => void this.save(), after);
  },
  /** Keeps unsaved painting on this device, just after the stroke. */
  keep() {
    if (!this.isClean()) localStorage.setItem(this.keepKey(), JSON.stringify({ revision: this.data.revision, doc: Alpine.raw(this.doc) }));
  },
  undo() {
    const last = this.past.pop();
    if (!last) return;
    this.future.push(text(this.doc));
    this.doc = JSON.parse(last) as SurveyDoc;
    this.said = "Undone";
    this.after();
    this.redraw();
  },
  redo() {
    const next = this.future.pop();
    if (!next) return;
    this.past.push(text(this.doc));
    this.doc = JSON.parse(next) as SurveyDoc;
    this.said = "Done again";
    this.after();
    this.redraw();
  },
  rules() {
    this.self.$root.querySelectorAll("select[data-rule]").forEach((s: HTMLSelectElement) => {
      s.value = (partOf(this.doc, `house.${s.dataset.rule}`) as string | undefined) ?? s.options[0].value;
    });
  },

  zoneDoc(id: string): Zone | undefined {
    return this.doc.zones.find((z) => z.zone === id);
  },
  fits(id: string): boolean {
    return this.kind !== "" && this.data.kinds[this.kind].families.some((f) => this.data.families[id]?.includes(f));
  },
  paint(id: string) {
    const brush = this.kind;
    if (brush === "") return;
    const kind = this.data.kinds[brush];
    const name = id.replaceAll("-", " ");
    if (!this.fits(id)) {
      this.said = `${kind.name} cannot sit on ${name}`;
      return;
    }
    if (this.grade < 0 && !this.zoneDoc(id)) return;
    const zone = this.zoneFor(id);
    zone.findings = zone.findings.filter((f) => f.contaminant !== this.kind);
    if (this.grade >= 0) {
      const age = kind.ages && this.grade > 0 ? this.age : "";
      zone.findings.push({ contaminant: brush, grade: this.grade, ...(age && { age }), certainty: this.certainty });
      zone.findings.sort((a, b) => (a.contaminant < b.contaminant ? -1 : 1));
    }
    this.said = `${name}: ${kind.name} ${this.grade < 0 ? "not looked" : gradeWords[this.grade]}`;
    this.drawZone(id);
  },

  down(e: PointerEvent) {
    const z = zoneAt(e.target);
    this.touching = e.pointerType === "touch" && !this.stroking;
    // A finger scrolls; what it taps comes as a click.
    if (!z || e.button !== 0 || this.touching) return;
    e.preventDefault();
    focusZone(this.net, z);
    if (this.kind === "" || !this.mayPaint()) return;
    this.painting = true;
    this.touched = text(this.doc);
    this.paint(z.dataset.zone!);
  },
  tap(e: MouseEvent) {
    const z = this.touching ? zoneAt(e.target) : null;
    if (!z) return;
    focusZone(this.net, z);
    if (this.kind !== "") this.change(() => this.paint(z.dataset.zone!));
  },
  move(e: PointerEvent) {
    if (!this.painting) return;
    const z = zoneAt(document.elementFromPoint(e.clientX, e.clientY));
    if (z && z.dataset.zone !== this.here) {
      this.arrive(z);
      this.paint(this.here);
    }
  },
  up() {
    if (!this.painting) return;
    this.painting = false;
    const before = this.touched;
    if (text(this.doc) !== before) {
      this.past.push(before);
      this.future = [];
      this.after();
    }
  },
  key(e: KeyboardEvent) {
    const z = zoneAt(e.target);
    if (!z || e.ctrlKey || e.metaKey) return;
    const next = neighbour(this.net, z, e.key);
    if (next) {
      focusZone(this.net, next);
      e.preventDefault();
    } else if (e.key === "Enter" || e.key === " ") {
      if (this.kind === "") this.said = "No brush in hand: pick one up in the palette, then Enter paints.";
      else this.change(() => this.paint(z.dataset.zone!));
      e.preventDefault();
    } else if (/^[0-4]$/.test(e.key)) {
      this.grade = Number(e.key);
      this.said = `Grade ${e.key}, ${gradeWords[this.grade]}`;
    } else if (e.key === "Backspace" || e.key === "Delete") {
      this.grade = -1;
      this.change(() => this.paint(z.dataset.zone!));
      e.preventDefault();
    }
  },
  arrive(z: ZoneElement | null) {
    if (!z) return;
    this.here = z.dataset.zone!;
    this.fillZone();
  },

  zoneTitle() {
    return this.here ? this.here.replaceAll("-", " ") : "Zone";
  },
  zoneLines() {
    const zone = this.here ? this.zoneDoc(this.here) : undefined;
    return (zone?.findings ?? [])
      .slice()
      .sort((a, b) => this.data.kinds[a.contaminant]?.layer - this.data.kinds[b.contaminant]?.layer)
      .map((f) => ({
        id: f.contaminant,
        name: this.data.kinds[f.contaminant]?.name ?? f.contaminant,
        words: gradeWords[f.grade] + (f.age ? ", " + f.age : ""),
      }));
  },
  zoneBlank() {
    return this.here !== "" && this.zoneLines().length === 0;
  },

  redraw() {
    this.drawLayers();
    this.fillZone();
    zonesOf(this.net).forEach((z) => this.drawZone(z.dataset.zone!));
  },
  /** Covering kinds lie lowest in the drawing, spots above; deeper layers first. */
  rank(kind: string) {
    const k = this.data.kinds[kind];
    return (k?.covers ? 100 : 0) + (k?.layer ?? 0);
  },
  drawZone(id: string) {
    const g = this.net.querySelector<SVGGElement>(`[data-zone="${id}"]`);
    if (!g) return;
    const all = (this.zoneDoc(id)?.findings ?? []).filter((f) =>
      this.only === "" ? !this.hidden.includes(f.contaminant) : f.contaminant === this.only,
    );
    const found = all
      .filter((f) => f.grade > 0)
      .sort((a, b) => b.grade - a.grade || this.data.kinds[a.contaminant]?.layer - this.data.kinds[b.contaminant]?.layer);
    const drawn = found.slice(0, this.data.mostDrawn).sort((a, b) => this.rank(b.contaminant) - this.rank(a.contaminant));
    const state = found.length ? "found" : all.length ? "none" : "unlooked";
    const outline = g.querySelector(".base")!.getAttribute("href")!;
    const fills = drawn.map((f) => `tx-${f.contaminant}-${f.grade}`);
    if (state !== "found") fills.push(state === "none" ? "tx-none" : "tx-unlooked");
    const holder = g.querySelector(".overlays")!;
    holder.replaceChildren(
      ...fills.map((fill) => {
        const layer = document.createElementNS(svgNs, "use");
        layer.setAttribute("href", outline);
        layer.setAttribute("fill", `url(#${fill})`);
        return layer;
      }),
    );
    g.classList.remove("is-found", "is-none", "is-unlooked");
    g.classList.add(`is-${state}`);
    g.classList.toggle("cannot", this.only !== "" && !this.fits(id));
    const words = found.length
      ? found.map((f) => `${this.data.kinds[f.contaminant]?.name} ${f.grade}`).join(", ")
      : state === "none"
        ? "looked, none"
        : "not looked";
    g.setAttribute("aria-label", `${id.replaceAll("-", " ")}: ${words}`);
  },

  async save() {
    if (this.busy || this.isClean() || (this.self.$refs.conflict as HTMLDialogElement).open) return;
    await this.send(this.data.revision);
  },
  async send(onRevision: number): Promise<boolean> {
    this.busy = true;
    this.state = "Saving …";
    const sent = text(this.doc);
    try {
      const answer = await fetch(`/api/v1/jobs/${this.data.number}/survey`, {
        method: "PUT",
        headers: {
          "Content-Type": "application/json",
          "If-Match": `"${onRevision}"`,
          "X-CSRF-Token": document.querySelector<HTMLMetaElement>("meta[name=csrf]")!.content,
        },
        body: sent,
      });
      const body = await answer.json().catch(() => ({}));
      if (answer.ok) {
        this.retry = 0;
        localStorage.removeItem(this.keepKey());
        this.data.revision = body.revision as number;
        this.saved = body.survey ? JSON.stringify(body.survey) : sent;
        this.failed = false;
        this.state = `Saved, revision ${this.data.revision}`;
        if (body.survey) {
          const theirs = body.survey as SurveyDoc;
          const parts = body.fromThem as string[];
          this.state += `; with what somebody else found on ${parts.map((z) => z.replaceAll("-", " ")).join(", ")}`;
          this.said = this.state;
          // What was painted while this save was on its way stays, and what they found goes under it, in every step back too.
          const base = JSON.parse(sent) as SurveyDoc;
          const both = parts.filter(
            (what) => !same(partOf(this.doc, what), partOf(base, what)) && !same(partOf(this.doc, what), partOf(theirs, what)),
          );
          const mine = clone(this.doc);
          const went = text(this.doc) === sent;
          this.doc = went ? theirs : rebase(mine, base, theirs, parts);
          this.saved = went ? text(this.doc) : "";
          this.past = this.past.map((doc) => JSON.stringify(rebase(JSON.parse(doc) as SurveyDoc, base, theirs, parts)));
          this.future = this.future.map((doc) => JSON.stringify(rebase(JSON.parse(doc) as SurveyDoc, base, theirs, parts)));
          this.redraw();
          if (both.length > 0) {
            const merged = clone(mine);
            parts.forEach((what) => setPart(merged, what, partOf(theirs, what)));
            this.doc = mine;
            this.showConflict({
              theirs,
              merged,
              conflicts: both,
              revision: this.data.revision,
              detail: `${both.join(", ").replaceAll("-", " ")}: changed by somebody else, and by you meanwhile. Nothing was overwritten.`,
            });
            return false;
          }
        }
        this.saveSoon();
        return true;
      }
      this.failed = true;
      this.state =
        answer.status === 409 && body.conflicts
          ? "Not saved: the same place was changed twice"
          : answer.status === 401
            ? "Not saved: signed out. Sign in in another tab; your painting is kept here."
            : `Not saved: ${body.detail ?? body.title ?? answer.status}`;
      if (answer.status === 409 && body.conflicts) this.showConflict(body);
    } catch {
      this.failed = true;
      this.retry = Math.min(this.retry + 1, 6);
      this.state = "No connection: your painting is kept here and sent when it is back.";
      this.saveSoon(1000 * 2 ** this.retry);
    } finally {
      this.busy = false;
    }
    return false;
  },
  showConflict(body: { theirs: SurveyDoc; merged: SurveyDoc; conflicts: string[]; revision: number; detail: string }) {
    this.merged = body.merged;
    this.conflicts = body.conflicts;
    this.theirRevision = body.revision;
    this.conflictWords = body.detail;
    const words = (doc: SurveyDoc, what: string): string => {
      if (what.startsWith("house.")) return String(partOf(doc, what) ?? "default");
      const zone = doc.zones.find((z) => z.zone === what);
      if (zone) {
        const found = zone.findings.map((f) => `${this.data.kinds[f.contaminant]?.name ?? f.contaminant} ${f.grade}`).join(", ");
        const rest = (["surface", "goal", "protection", "water"] as const)
          .filter((k) => zone[k])
          .map((k) => `${k} ${zone[k]}`)
          .join(", ");
        return [found, rest].filter(Boolean).join("; ") || "not looked";
      }
      const part = partOf(doc, what);
      return part === undefined ? "not looked" : JSON.stringify(part);
    };
    this.differences = body.conflicts.map((what) => ({
      what: what.replaceAll("-", " ").replace("house.", "house rule "),
      mine: words(this.doc, what),
      theirs: words(body.theirs, what),
    }));
    (this.self.$refs.conflict as HTMLDialogElement).showModal();
  },
  /** The merge, with my version where both changed the same place. */
  async keepMine() {
    (this.self.$refs.conflict as HTMLDialogElement).close();
    const mine = this.doc;
    const doc = clone(this.merged!);
    for (const what of this.conflicts) setPart(doc, what, partOf(mine, what));
    this.past.push(JSON.stringify(mine));
    this.doc = doc;
    this.data.revision = this.theirRevision;
    this.redraw();
    await this.send(this.theirRevision);
  },
  async takeTheirs() {
    (this.self.$refs.conflict as HTMLDialogElement).close();
    localStorage.removeItem(this.keepKey());
    this.past.push(text(this.doc));
    this.doc = clone(this.merged!);
    this.data.revision = this.theirRevision;
    this.saved = "";
    this.redraw();
    await this.send(this.theirRevision);
  },
  backToMine() {
    (this.self.$refs.conflict as HTMLDialogElement).close();
  },
  async goPlan() {
    const event = this.self.$event as Event | undefined;
    if (this.isClean()) return;
    event?.preventDefault();
    const link = this.el() as HTMLAnchorElement;
    if (await this.send(this.data.revision)) location.href = link.href;
  },
});
