// Holds the bay's own parts to what is asked of them: the clock that guesses server time, and what comes next for whom.
import assert from "node:assert/strict";
const { Clock, flow, reduce, START } = await import(process.argv[2]);

let cases = 0;
function holds(name, test) {
  test();
  cases++;
  console.log(`ok ${name}`);
}

// A page whose clocks are ours.
let mono = 0;
let wall = 5_000_000;
Object.defineProperty(globalThis, "performance", { value: { now: () => mono }, configurable: true });
Date.now = () => wall;
const pass = (ms, alsoWall = ms) => {
  mono += ms;
  wall += alsoWall;
};
let seed = 42;
const dice = (n) => (seed = (seed * 1103515245 + 12345) % 2147483648) % n;

holds("server time lies within what the clock says, whichever way an answer was slow", () => {
  for (let i = 0; i < 500; i++) {
    mono = dice(1e6);
    // The page's clock runs up to 150 millionths fast or slow.
    const drift = (dice(300) - 150) * 1e-6;
    const start = 1e12 + dice(1e9);
    const from = mono;
    const truth = (m) => start + (m - from) * (1 + drift);
    const clock = new Clock();
    for (let s = 0; s < 4; s++) {
      pass(dice(20_000));
      const asked = mono;
      const there = dice(900);
      const back = dice(900);
      clock.sample(truth(asked + there), asked, asked + there + back);
      pass(there + back);
    }
    pass(dice(3_600_000));
    const now = clock.now();
    assert.ok(Math.abs(now.at - truth(mono)) <= now.error, `off by ${now.at - truth(mono)}, said ${now.error}`);
    const back = clock.claim(mono - 1_800_000);
    assert.ok(back.lo <= truth(mono - 1_800_000) && truth(mono - 1_800_000) <= back.hi, "half an hour ago");
  }
});

holds("the best answer is kept", () => {
  const clock = new Clock();
  clock.sample(1000, mono, mono + 10);
  const good = clock.now().error;
  clock.sample(9000, mono, mono + 2000);
  assert.equal(clock.now().error, good);
});

holds("a clock nothing has dated claims nothing, and one that slept begins anew", () => {
  let slept = 0;
  const clock = new Clock(() => slept++);
  assert.equal(clock.claim(mono), null);
  clock.sample(1000, mono, mono + 10);
  const epoch = clock.epoch;
  pass(1000);
  clock.tick();
  assert.equal(clock.epoch, epoch);
  pass(1000, 60_000);
  clock.tick();
  assert.notEqual(clock.epoch, epoch, "the page's clock stood still while the machine slept");
  assert.equal(clock.dated, false);
  clock.sample(1000, mono, mono + 10);
  pass(7000);
  clock.tick();
  assert.deepEqual([slept, clock.dated], [2, false], "the heart missed its beat");
});

// One vehicle, three steps: foam in two sections with a look, a spray left wet for another, water.
const answers = [
  { word: "clean", look: "cloth", say: "clean", stop: true, drawing: "" },
  { word: "gritty", look: "cloth", say: "gritty", stop: false, drawing: "" },
  { word: "inconclusive", look: "cloth", say: "could not tell", stop: false, drawing: "" },
];
const win = [[60_000, 120_000, 200_000, 150_000], [50_000, 90_000, 100_000, 150_000]];
const step = (key, treatment, zones, more = {}) => ({
  key, treatment, number: "1", stage: "foam", name: key, agent: key, agentName: key, look: "foam", strength: 0.1, line: true, water: false,
  under: false, over: null, zones: zones.map((id) => ({ id, rounds: 1, ml: 10, solution: 100, win })), sections: [zones], words: {},
  until: null, kitPieces: [], cautions: [], product: key, ...more,
});
const doc = {
  done: [], loops: [], head: 0, from: 0, quarterMs: 900_000, plan: 1, net: { zones: [{ id: "roof", words: "roof" }], box: [0, 0, 1, 1] },
  steps: [
    step("foam", "foam-a", ["roof", "door"], {
      sections: [["roof:1:2", "roof:2:2"], ["door"]], kitPieces: ["gloves"], cautions: [{ id: "c1", words: "not in the sun" }],
      until: { observe: "cloth", ask: "", how: "", most: 2, then: "", answers },
    }),
    step("spray", "spray-a", ["sill"], { under: true }),
    step("rinse", "rinse", ["roof", "door"], { line: false, water: true }),
  ],
};
let log = [];
const say = (who, kind, body, at = log.length * 1000) =>
  log.push({
    id: `e${log.length + 1}`, device: who, seq: log.length + 1, epoch: "a", mono: at, after: log.length, rev: 1, who, kind, body,
    when: { at, lo: at, hi: at }, number: log.length + 1, received: at,
  });
const state = () => log.reduce(reduce, START);
const task = (who = "p1") => {
  const t = flow.taskOf(doc, state(), who);
  return [t.phase, t.step?.key ?? null, t.pieces.join(" "), t.round];
};

holds("one instruction after the other: kit, on, dwell, off, look, again while it is gritty, then the next section", () => {
  assert.deepEqual(task(), ["start", null, "", 0]);
  say("p1", "started", { plan: 1 });
  assert.deepEqual(task(), ["ready", "foam", "roof:1:2 roof:2:2", 1]);
  say("p1", "cautioned", { cautions: ["kit:gloves", "c1"] });
  assert.deepEqual(task(), ["apply", "foam", "roof:1:2 roof:2:2", 1]);
  const roof = ["roof:1:2", "roof:2:2"];
  const on = (round) => ({ step: "foam", treatment: "foam-a", zones: roof, round, win: { dwell: 1, usable: 9e6, dry: 9e6, max: 9e6 } });
  say("p1", "applied", on(1));
  assert.equal(task()[0], "dwell");
  say("p1", "rinsed", { zones: roof });
  assert.deepEqual(task(), ["look", "foam", "roof:1:2 roof:2:2", 2]);
  say("p1", "seen", { step: "foam", zones: roof, observe: "cloth", result: "inconclusive", because: "wet" });
  assert.equal(task()[0], "look", "could not tell is asked again");
  say("p1", "seen", { step: "foam", zones: ["roof:1:2"], observe: "cloth", result: "clean" });
  say("p1", "seen", { step: "foam", zones: ["roof:2:2"], observe: "cloth", result: "gritty" });
  assert.deepEqual(task(), ["apply", "foam", "roof:2:2", 2], "only where it is gritty");
  say("p1", "applied", { ...on(2), zones: ["roof:2:2"] });
  say("p1", "rinsed", { zones: ["roof:2:2"] });
  say("p1", "seen", { step: "foam", zones: ["roof:2:2"], observe: "cloth", result: "gritty" });
  assert.deepEqual(task(), ["apply", "foam", "door", 1], "at the most rounds it stops, and the plan says what then");
});

holds("two people do not stand in each other's way, and a step that is left out is passed over", () => {
  say("p1", "taken", { step: "foam", zones: ["door"] });
  assert.deepEqual(task("p2").slice(0, 2), ["apply", "spray"]);
  say("p2", "applied", { step: "spray", treatment: "spray-a", zones: ["sill"], win: { dwell: 1, usable: 9, dry: 9, max: 9 } });
  assert.deepEqual(task("p2").slice(0, 2), ["work", "rinse"], "left wet for what comes over it");
  assert.equal(flow.openLines(state()).length, 1, "and its line stays");
  say("p2", "skipped", { step: "rinse", zones: ["roof", "door"], reason: "no water" });
  assert.deepEqual(task("p2").slice(0, 2), ["apply", "foam"], "what is left belongs to both");
  say("p2", "happened", { what: "gas" });
  assert.deepEqual([task("p1")[0], task("p2")[0]], ["stop", "stop"]);
});

holds("a window is the tightest of its pieces at that quarter-hour, the last one after the table's end", () => {
  assert.deepEqual(flow.windowOf(doc, doc.steps[0], ["door"], 10), { dwell: 60_000, usable: 120_000, dry: 200_000, max: 150_000 });
  assert.equal(flow.windowOf(doc, doc.steps[0], ["door"], 901_000).usable, 90_000);
  assert.equal(flow.windowOf(doc, doc.steps[0], ["door"], 9e9).usable, 90_000);
});

holds("it warns at three quarters, alarms when it has to come off or the label ends, and says dried when it is", () => {
  const line = { first: 0, start: 0, dwell: 30, usable: 100, dry: 140, max: 120, dried: false };
  const at = (now, more = {}) => flow.urgencyOf({ ...line, ...more }, now);
  assert.deepEqual([0, 30, 74, 75, 99, 100, 139, 140].map((n) => at(n)), [
    "calm", "worked", "worked", "warn", "warn", "now", "now", "dried",
  ]);
  assert.equal(at(61, { max: 60 }), "now", "the label's longest");
  assert.equal(at(1, { dried: true }), "dried");
  assert.equal(at(1, { dried: true, id: "a", last: "b" }), "calm", "wetted again it has its time anew");
});

const begin = (key) => {
  log = [];
  say("p1", "started", { plan: 1 });
  say("p1", "cautioned", { cautions: ["kit:gloves", "c1"] });
  say("p1", "taken", { step: key });
};
const applied = (zones, at, more = {}) => {
  const body = { step: "foam", treatment: "foam-a", zones, win: { dwell: 30_000, usable: 60_000, dry: 90_000, max: 99_000 }, ...more };
  say("p1", "applied", body, at);
};

holds("a round that dried counts as not done, and what is seen over it is no answer", () => {
  begin("foam");
  const roof = ["roof:1:2", "roof:2:2"];
  applied(roof, 100_000);
  say("p1", "rinsed", { zones: roof }, 200_000);
  assert.deepEqual(task(), ["apply", "foam", "roof:1:2 roof:2:2", 1], "once more, as if it had not been");
  applied(roof, 300_000);
  say("p1", "rinsed", { zones: roof }, 340_000);
  assert.deepEqual(task().slice(0, 2), ["look", "foam"]);
});

holds("could not tell is asked again, however many rounds were made", () => {
  begin("foam");
  for (const round of [1, 2]) {
    applied(["door"], 100_000 * round, { round });
    say("p1", "rinsed", { zones: ["door"] }, 100_000 * round + 40_000);
  }
  say("p1", "seen", { step: "foam", zones: ["door"], observe: "cloth", result: "inconclusive", because: "wet" }, 400_000);
  assert.deepEqual(task().slice(0, 3), ["look", "foam", "door"]);
});

holds("another round is the server's word as soon as it has heard the look, not the word of the answer", () => {
  begin("foam");
  applied(["door"], 100_000);
  say("p1", "rinsed", { zones: ["door"] }, 140_000);
  say("p1", "seen", { step: "foam", zones: ["door"], observe: "cloth", result: "clean" }, 150_000);
  const needs = (more) => flow.needOf({ ...doc, ...more }, state(), doc.steps[0], "door");
  const loop = (again) => ({ loops: [{ zone: "door", step: "foam", again, words: "" }] });
  assert.equal(needs({}), "nothing", "alone it goes by the stop sign");
  assert.equal(needs({ head: log.length, ...loop(true) }), "round");
  assert.equal(needs({ head: log.length - 1, ...loop(true) }), "nothing", "the server has not heard this look yet");
  say("p1", "seen", { step: "foam", zones: ["door"], observe: "cloth", result: "gritty" }, 160_000);
  assert.equal(needs({}), "round");
  assert.equal(needs({ head: log.length, ...loop(false) }), "nothing", "it does not repay the work");
});

holds("what a paper card had done before is not asked for again", () => {
  begin("foam");
  const paper = { ...doc, done: ["foam", "spray"] };
  assert.equal(flow.taskOf(paper, state(), "p1").step.key, "rinse");
  applied(["door"], 100_000);
  say("p1", "rinsed", { zones: ["door"] }, 140_000);
  assert.equal(flow.needOf(paper, state(), doc.steps[0], "door"), "look", "but what is done again is looked at");
});

holds("half a roof takes half of what the roof takes", () => {
  assert.deepEqual(flow.pourOf(doc.steps[0], ["roof:1:2", "door"]), { neat: 15, solution: 150 });
});

console.log(`${cases} cases`);
