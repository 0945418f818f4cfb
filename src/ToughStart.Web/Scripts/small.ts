import { chooseOn, zonesOf, type ZoneElement } from "./net";

// Small behaviours of pages that are otherwise plain HTML.
export const printer = () => ({
  print() {
    window.print();
  },
});

/** A page that failed for a moment comes back by itself. */
export const comeback = () => ({
  init() {
    const seconds = Number(((this as any).$root as HTMLElement).dataset.seconds ?? "0");
    if (seconds > 0) setTimeout(() => location.reload(), 1000 * seconds);
  },
});

/**
 * The yard looks again by itself while a plan is still being worked out; less and less often, and not for ever. What is there stays where
 * it is: only what changed is put in, and nothing while somebody has the keyboard in it.
 */
export const yard = () => ({
  init() {
    void this.look(0);
  },
  async look(again: number): Promise<void> {
    const root = (this as any).$root as HTMLElement;
    if (root.dataset.waits !== "true" || again > 60) return;
    await new Promise((done) => setTimeout(done, 400 + 100 * again));
    const answer = await fetch(location.href).catch(() => null);
    const fresh = answer?.ok ? new DOMParser().parseFromString(await answer.text(), "text/html").querySelector<HTMLElement>(".yard") : null;
    if (fresh && !root.contains(document.activeElement) && !root.querySelector(":active")) {
      const bays = [...root.querySelectorAll(".bay")];
      const now = [...fresh.querySelectorAll(".bay")];
      if (bays.length !== now.length) root.innerHTML = fresh.innerHTML;
      else bays.forEach((bay, i) => bay.innerHTML !== now[i].innerHTML && bay.replaceWith(now[i]));
      root.dataset.waits = fresh.dataset.waits ?? "";
    }
    return this.look(again + 1);
  },
});

export const autosubmit = () => ({
  submit() {
    const el = (this as any).$el as HTMLElement;
    const form = (el as HTMLSelectElement).form ?? el.closest("form");
    form?.submit();
  },
});

/** Intake: shows what the answers so far warn of, and fetches an earlier visit by registration. */
export const intake = () => ({
  lookUp() {
    const plate = ((this as any).$refs.plate as HTMLInputElement).value.trim();
    if (plate) location.href = `/jobs/new?plate=${encodeURIComponent(plate)}`;
  },
  readHardness() {
    const stream = new EventSource(location.pathname.replace("/jobs", "/api/v1/jobs").replace("/intake", "/gauges/hardness"));
    stream.addEventListener("error", () => stream.close());
    stream.addEventListener("reading", (e) => {
      stream.close();
      const input = (this as any).$refs.hardness as HTMLInputElement;
      input.value = String(JSON.parse((e as MessageEvent<string>).data).value);
      const unit = ((this as any).$root as HTMLFormElement).elements.namedItem("Form.HardnessUnit") as HTMLSelectElement;
      unit.value = "mg-l";
      void this.look();
    });
  },
  /** What the body chosen usually measures, for whoever leaves it empty. */
  follow() {
    const form = (this as any).$root as HTMLFormElement;
    const picked = form.querySelector<HTMLInputElement>("input[name='Form.Preset']:checked");
    for (const side of ["Length", "Width", "Height"]) {
      const field = form.elements.namedItem(`Form.${side}`) as HTMLInputElement | null;
      if (field && picked) field.placeholder = picked.dataset[side.toLowerCase()] ?? "";
    }
  },
  async look() {
    this.follow();
    const form = (this as any).$root as HTMLFormElement;
    const target = (this as any).$refs.look as HTMLElement;
    if (target.contains(document.activeElement)) return;
    const answer = await fetch(`${location.pathname}?handler=Look`, { method: "POST", body: new FormData(form) }).catch(() => null);
    if (answer?.ok) target.innerHTML = await answer.text();
  },
});

/** Results: a zone chosen on the net leaves its own steps on the page. */
export const results = () => ({
  zone: "",
  init() {
    const net = (this as any).$refs.net as HTMLElement | undefined;
    ((this as any).$root as HTMLElement).querySelectorAll("[hidden]").forEach((el) => el.removeAttribute("hidden"));
    if (net) chooseOn(net, (z) => this.show(z.dataset.zone!));
  },
  everywhere() {
    this.show("");
  },
  show(zone: string) {
    this.zone = zone === this.zone ? "" : zone;
    const root = (this as any).$root as HTMLElement;
    zonesOf(root).forEach((z) => z.classList.toggle("drilled", z.dataset.zone === this.zone));
    root.querySelectorAll<HTMLElement>("fieldset.result").forEach((f) => {
      f.hidden = this.zone !== "" && !(f.dataset.zones ?? "").split(" ").includes(this.zone);
    });
    root.querySelectorAll<HTMLDetailsElement>("details.result-part").forEach((d) => {
      if (this.zone !== "" && d.querySelector("fieldset.result:not([hidden])")) d.open = true;
    });
  },
  whereWords() {
    return this.zone === "" ? "Choose a zone to see its steps alone." : `Steps on ${this.zone.replaceAll("-", " ")}`;
  },
});

export const row = () => ({
  unsure: false,
  init() {
    const el = (this as any).$root as HTMLElement;
    el.querySelectorAll("[hidden]").forEach((h) => h.removeAttribute("hidden"));
    const chosen = el.querySelector<HTMLInputElement>("input[type=radio]:checked");
    this.unsure = chosen?.value === "inconclusive";
  },
  chose() {
    const el = (this as any).$el as HTMLInputElement;
    this.unsure = el.value === "inconclusive";
    const rounds = el.closest(".result-row")?.querySelector<HTMLInputElement>(".result-rounds input");
    // What is still to do; where the planned rounds are done, another look does nothing.
    if (rounds && rounds.value === "") rounds.value = rounds.dataset.left ?? "";
  },
});

/** Zones on which something else was seen: one more line as soon as the last one names its zone. */
export const differs = () => ({
  more() {
    const lines = [...((this as any).$root as HTMLElement).querySelectorAll<HTMLElement>(".differ")];
    const last = lines.at(-1)!;
    const zones = last.querySelector("select")!;
    if (zones.value === "" || lines.length >= zones.options.length - 1) return;
    const next = last.cloneNode(true) as HTMLElement;
    next.querySelectorAll("select").forEach((s) => {
      s.name = s.name.replace(/Except\[\d+\]/, `Except[${lines.length}]`);
      s.value = "";
    });
    last.after(next);
  },
});

/** A form whose answer is drawn again as it is filled in; without a script its button does the same. */
export const live = () => ({
  timer: 0,
  turn: 0,
  later() {
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.now(), 220);
  },
  async now() {
    const root = (this as any).$root as HTMLElement;
    const form = root.querySelector<HTMLFormElement>("form[data-ask]")!;
    const turn = ++this.turn;
    const query = new URLSearchParams();
    for (const [name, value] of new FormData(form)) if (typeof value === "string" && value !== "") query.append(name, value);
    const url = `${location.pathname}?${query}`;
    const answer = await fetch(url).catch(() => null);
    if (turn !== this.turn) return;
    if (!answer?.ok) {
      form.submit();
      return;
    }
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    root.querySelectorAll<HTMLElement>("[data-live]").forEach((part) => {
      const fresh = page.querySelector(`[data-live='${part.dataset.live}']`);
      if (fresh) part.innerHTML = fresh.innerHTML;
    });
    history.replaceState(null, "", url);
  },
  /** A chip puts its words into the field it belongs to. */
  put() {
    const chip = (this as any).$el as HTMLElement;
    const field = ((this as any).$root as HTMLElement).querySelector<HTMLInputElement>(`[name='${chip.dataset.field}']`);
    if (!field) return;
    field.value = chip.dataset.value ?? "";
    void this.now();
  },
});

/** Stop-watch of the lance calibration: big button, seconds into the field. */
export const stopwatch = () => ({
  from: 0,
  shown: "0.0",
  running: false,
  frame: 0,
  press() {
    if (this.running) {
      this.running = false;
      cancelAnimationFrame(this.frame);
      ((this as any).$refs.seconds as HTMLInputElement).value = this.shown;
      return;
    }
    this.from = performance.now();
    this.running = true;
    this.tick();
  },
  tick() {
    this.shown = ((performance.now() - this.from) / 1000).toFixed(1);
    if (this.running) this.frame = requestAnimationFrame(() => this.tick());
  },
  label() {
    return this.running ? "Bottle empty: stop" : "Pull the trigger: start";
  },
});

/** Tests: zones are ticked in the list or on the net, all of them or none. */
export const testing = () => ({
  init() {
    const net = (this as any).$refs.net as HTMLElement | undefined;
    if (!net) return;
    chooseOn(net, (z) => this.tick(net, z));
    document.addEventListener("change", () => this.show(net));
    this.show(net);
  },
  boxes(): HTMLInputElement[] {
    return [...document.querySelectorAll<HTMLInputElement>(".test-zones input")];
  },
  tick(net: HTMLElement, z: ZoneElement) {
    const box = this.boxes().find((b) => b.value === z.dataset.zone);
    if (!box) return;
    box.checked = !box.checked;
    this.show(net);
  },
  show(net: HTMLElement) {
    const on = new Set(this.boxes().flatMap((b) => (b.checked ? [b.value] : [])));
    zonesOf(net).forEach((z) => z.classList.toggle("drilled", on.has(z.dataset.zone!)));
  },
  set(on: boolean) {
    this.boxes().forEach((b) => (b.checked = on));
    const net = (this as any).$refs.net as HTMLElement;
    this.show(net);
  },
  all() {
    this.set(true);
  },
  none() {
    this.set(false);
  },
});
