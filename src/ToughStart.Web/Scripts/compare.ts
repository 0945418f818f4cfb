// The front from gentlest to fastest, drawn as it is computed; and house rules with a live preview.
import { say } from "./ways";

type Point = { harm: number; minutes: number; elapsed: number; litres: number; price: string; gentler: string; lean: string };
const NS = "http://www.w3.org/2000/svg";

export const front = () => {
  let points: Point[] = [];
  return {
    says: "Computing plans …",
    href: "",
    lean: "",
    ready: false,
    init() {
      const root = (this as any).$root as HTMLElement;
      root.querySelectorAll("[hidden]").forEach((el) => el.removeAttribute("hidden"));
      if (!root.querySelector(".front-plot")) return;
      const stream = new EventSource(`/jobs/${root.dataset.number}/compare?handler=Front`);
      stream.addEventListener("done", (e) => {
        this.says = `Computing plans … ${(e as MessageEvent<string>).data}`;
      });
      stream.addEventListener("front", (e) => {
        stream.close();
        const data = JSON.parse((e as MessageEvent<string>).data) as { now: { harm: number; minutes: number }; points: Point[] };
        points = data.points;
        this.draw(data.now);
        const range = (this as any).$refs.slide as HTMLInputElement;
        range.max = String(points.length - 1);
        range.disabled = points.length < 2;
        const nearest = points.reduce(
          (best, p, i) => (Math.abs(p.minutes - data.now.minutes) < Math.abs(points[best].minutes - data.now.minutes) ? i : best),
          0,
        );
        range.value = String(nearest);
        this.ready = true;
        this.slide();
      });
      stream.addEventListener("error", () => {
        stream.close();
        if (!this.ready) this.says = "The plans could not be computed now. Load the page again.";
      });
    },
    send() {
      const el = (this as any).$el as HTMLSelectElement;
      if (el.value) el.form!.submit();
    },
    draw(now: { harm: number; minutes: number }) {
      const marks = ((this as any).$root as HTMLElement).querySelector(".front-marks")!;
      const all = [...points, now];
      const [x0, x1] = [Math.min(...all.map((p) => p.minutes)), Math.max(...all.map((p) => p.minutes))];
      const [y0, y1] = [Math.min(...all.map((p) => p.harm)), Math.max(...all.map((p) => p.harm))];
      const x = (m: number) => 50 + (340 * (m - x0)) / Math.max(1, x1 - x0);
      const y = (h: number) => 165 - (135 * (h - y0)) / Math.max(0.1, y1 - y0);
      const add = (name: string, attributes: Record<string, string | number>, text = "") => {
        const el = document.createElementNS(NS, name);
        for (const [k, v] of Object.entries(attributes)) el.setAttribute(k, String(v));
        el.textContent = text;
        marks.append(el);
      };
      add("path", { d: "M36 12V178H405", class: "film-axis", fill: "none" });
      add("text", { x: 222, y: 194, "text-anchor": "middle" }, "minutes hands-on");
      add("text", { x: 40, y: 10 }, "wear on the finish");
      for (const m of [x0, x1]) add("text", { x: x(m), y: 194, "text-anchor": m === x0 ? "start" : "middle" }, String(Math.round(m)));
      add("path", { d: `M${x(now.minutes) - 7} ${y(now.harm)}h14m-7 -7v14`, class: "front-now" });
      points.forEach((p, i) => add("circle", { cx: x(p.minutes), cy: y(p.harm), r: 6, class: "front-dot", "data-i": i }));
    },
    slide() {
      const i = Number(((this as any).$refs.slide as HTMLInputElement).value);
      const p = points[i];
      if (!p) return;
      const root = (this as any).$root as HTMLElement;
      root.querySelectorAll<SVGElement>(".front-dot").forEach((d) => d.classList.toggle("front-on", d.dataset.i === String(i)));
      const place =
        points.length === 1
          ? "The only plan"
          : i === 0
            ? "Gentlest"
            : i === points.length - 1
              ? "Fastest"
              : `Plan ${i + 1} of ${points.length}`;
      this.says = say(`${place}: ${p.minutes} min hands-on, ${p.elapsed} min elapsed, ${p.gentler}, ${p.litres} l of water, ${p.price}.`);
      this.lean = p.lean;
      this.href = `?with=${encodeURIComponent("lean:" + p.lean)}`;
    },
  };
};

export const rules = () => ({
  turn: 0,
  async preview() {
    const root = (this as any).$root as HTMLElement;
    const form = root.querySelector<HTMLFormElement>("form.rule-list")!;
    const turn = ++this.turn;
    const pane = root.querySelector<HTMLElement>(".rule-preview")!;
    pane.setAttribute("aria-busy", "true");
    const answer = await fetch(`${location.pathname}?handler=Preview`, { method: "POST", body: new FormData(form) }).catch(() => null);
    if (turn !== this.turn) return;
    pane.removeAttribute("aria-busy");
    pane.innerHTML = answer?.ok ? await answer.text() : "<p>The preview did not come. Your choice is kept; save, or try again.</p>";
  },
});
