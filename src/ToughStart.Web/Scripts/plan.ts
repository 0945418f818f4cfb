import { chooseOn, zonesOf } from "./net";

// The Plan station: choose a step to see where and why, a zone to drill its core.
export const plan = () => ({
  step: "",
  tab: "steps",
  zone: "",
  coreTitle: "",
  decides: "",
  vehicleCore: "",

  init() {
    const refs = (this as any).$refs as Record<string, HTMLElement>;
    ((this as any).$root as HTMLElement).querySelectorAll("[hidden]").forEach((el) => el.removeAttribute("hidden"));
    if (!refs.net) return;
    this.decides = document.querySelector<HTMLElement>("[data-decides]")?.dataset.decides ?? "";
    this.coreTitle = this.decides.replaceAll("-", " ");
    this.vehicleCore = refs.core?.innerHTML ?? "";
    void this.prove(refs.proof);
    chooseOn(refs.net, (z) => void this.openZone(z.dataset.zone!));
  },

  async prove(words?: HTMLElement) {
    const answer = await fetch(`${location.pathname}?handler=Proof`).catch(() => null);
    if (words && answer?.ok) words.textContent = await answer.text();
  },
  pickFlips() {
    this.tab = "flips";
    return this.fill(((this as any).$refs as Record<string, HTMLElement>).flips, "Flips");
  },
  pickRefer() {
    this.tab = "refer";
    return this.fill(((this as any).$refs as Record<string, HTMLElement>).buy, "Buy");
  },
  async fill(pane: HTMLElement, handler: string) {
    if (pane.dataset.full) return;
    pane.dataset.full = "yes";
    const answer = await fetch(`${location.pathname}?handler=${handler}`).catch(() => null);
    if (answer?.ok) pane.innerHTML = await answer.text();
    else delete pane.dataset.full;
  },
  isStep() {
    return this.step !== "" && ((this as any).$el as HTMLElement).dataset.step === this.step;
  },
  noStep() {
    return this.step === "";
  },
  isTab() {
    return ((this as any).$el as HTMLElement).dataset.tab === this.tab;
  },
  onTab() {
    return ((this as any).$el as HTMLElement).dataset.tab === this.tab;
  },
  noZone() {
    return this.zone === "";
  },
  coreWhy() {
    return this.zone === "" || this.zone === this.decides ? "decides the plan: most steps" : "drilled here";
  },
  zoneOpen() {
    return this.zone !== "";
  },
  pickTab() {
    this.tab = ((this as any).$el as HTMLElement).dataset.tab ?? "steps";
  },
  pickStep() {
    const el = (this as any).$el as HTMLElement;
    this.step = this.step === el.dataset.step ? "" : (el.dataset.step ?? "");
    // On a phone a step opens where it stands; beside the vehicle where there is room.
    const article = document.querySelector<HTMLElement>(`article.detail[data-step="${el.dataset.step}"]`);
    const pane = document.querySelector<HTMLElement>(".detail-pane");
    if (article && pane) (matchMedia("(max-width: 760px)").matches ? el.parentElement! : pane).append(article);
    // Whoever opens it from the keyboard stands in it; Escape goes back to the step.
    const fromKeys = ((this as any).$event as MouseEvent | undefined)?.detail === 0;
    if (article && this.step && fromKeys) {
      article.tabIndex = -1;
      article.onkeydown = (e) => e.key === "Escape" && el.focus();
      setTimeout(() => article.focus());
    }
    const zones = new Set(this.step ? (el.dataset.zones ?? "").split(" ") : []);
    const net = ((this as any).$refs as Record<string, HTMLElement>).net;
    net.classList.toggle("focusing", zones.size > 0);
    zonesOf(net).forEach((z) => z.classList.toggle("in-step", zones.has(z.dataset.zone!)));
    document.querySelectorAll<SVGGElement>("[data-dig]").forEach((d) => {
      const label = d.querySelector("title")?.textContent?.split(" ")[0];
      d.classList.toggle("dig-on", this.step !== "" && label === this.step);
    });
  },
  async openZone(zone: string) {
    const refs = (this as any).$refs as Record<string, HTMLElement>;
    const answer = await fetch(`${location.pathname}?handler=core&zone=${encodeURIComponent(zone)}`);
    if (!answer.ok || !refs.core) return;
    refs.core.innerHTML = await answer.text();
    this.zone = zone;
    this.coreTitle = zone.replaceAll("-", " ");
    zonesOf(refs.net).forEach((z) => z.classList.toggle("drilled", z.dataset.zone === zone));
  },
  closeZone() {
    const refs = (this as any).$refs as Record<string, HTMLElement>;
    refs.core.innerHTML = this.vehicleCore;
    this.zone = "";
    this.coreTitle = this.decides.replaceAll("-", " ");
    zonesOf(refs.net).forEach((z) => z.classList.remove("drilled"));
  },
});
