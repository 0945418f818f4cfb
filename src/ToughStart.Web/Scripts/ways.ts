// Texts that scripts write, in the shop's measures. The shop's changes come with the page; a metric shop has none.
type Change = { from: string; factor: number; add: number; to: string };
const { changes, comma } = JSON.parse(document.documentElement.dataset.ways || '{"changes":[],"comma":false}') as {
  changes: Change[];
  comma: boolean;
};

export function say(text: string): string {
  const said = text.replace(/(-?\d+(?:\.\d+)?) (l\/min|ml|mm|cm|m²|°C|l)(?![\w/])/g, (all, n: string, unit: string) => {
    const c = changes.find((x) => x.from === unit);
    if (!c) return all;
    const v = Number(n) * c.factor + c.add;
    return `${c.add !== 0 || Math.abs(v) >= 100 ? Math.round(v) : Math.round(v * 10) / 10} ${c.to}`;
  });
  return comma ? said.replace(/(\d)\.(\d)/g, "$1,$2") : said;
}

/** A number kept in an SI unit as the shop types it. */
export function asTyped(si: number, unit: string): string {
  const c = changes.find((x) => x.from === unit);
  const n = c ? Math.round((si * c.factor + c.add) * 100) / 100 : si;
  return comma ? String(n).replace(".", ",") : String(n);
}

/** A number as the shop types it, in the SI unit it is kept in. */
export function asKept(typed: number, unit: string): number {
  const c = changes.find((x) => x.from === unit);
  return c ? Math.round(((typed - c.add) / c.factor) * 100) / 100 : typed;
}
