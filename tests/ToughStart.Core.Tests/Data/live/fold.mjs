// Folds logs with the pages' own reducer: reads [[entry, ...], ...] from standard input, writes the state of each, one a line.
import { readFileSync } from "node:fs";
const { START, reduce, write } = await import(process.argv[2]);
for (const log of JSON.parse(readFileSync(0, "utf8"))) {
  console.log(write(log.reduce(reduce, START)));
}
