// Fonts ship with the app: copies the few files the styles name.
import { mkdirSync, copyFileSync } from "node:fs";
const out = "wwwroot/dist/fonts";
mkdirSync(out, { recursive: true });
const files = {
  barlow: ["400-normal", "500-normal", "600-normal"],
  "barlow-condensed": ["500-normal", "600-normal", "700-normal"],
};
for (const [family, cuts] of Object.entries(files)) {
  for (const cut of cuts) {
    copyFileSync(`node_modules/@fontsource/${family}/files/${family}-latin-${cut}.woff2`, `${out}/${family}-latin-${cut}.woff2`);
  }
}
