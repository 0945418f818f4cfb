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

export const results = () => ({});

export const row = () => ({
  unsure: false,
  init() {
    const el = (this as any).$root as HTMLElement;
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
