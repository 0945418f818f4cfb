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
