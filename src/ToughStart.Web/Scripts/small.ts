// Small behaviours of pages that are otherwise plain HTML.
export const printer = () => ({
  print() {
    window.print();
  },
});

export const autosubmit = () => ({
  submit() {
    const el = (this as any).$el as HTMLElement;
    el.closest("form")?.submit();
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
  async look() {
    const form = (this as any).$root as HTMLFormElement;
    const target = (this as any).$refs.look as HTMLElement;
    if (target.contains(document.activeElement)) return;
    const answer = await fetch(`${location.pathname}?handler=Look`, { method: "POST", body: new FormData(form) }).catch(() => null);
    if (answer?.ok) target.innerHTML = await answer.text();
  },
});

export const results = () => ({});

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
    const planned = el.closest(".result-row")?.querySelector("small")?.textContent?.match(/\d+/)?.[0];
    if (rounds && rounds.value === "" && planned) rounds.value = planned;
  },
});
