// The data of the fight, and what is looked up in it. Ticks count on through resets; a tick's time is when it begins.
const byId = (id) => document.getElementById(id);
const make = (tag, given, ...children) => {
  const { dataset, ...properties } = given ?? {};
  const node = Object.assign(document.createElement(tag), properties);
  Object.assign(node.dataset, dataset ?? {});
  node.append(...children.flat(9).filter((child) => child != null && child !== ""));
  return node;
};
// The places of the values in a row of the feed.
const TICK = 0, MARK = 1, TOPIC = 2, FIRST = 3, LAST = 4, TEXT = 5, SUBJECT = 6, OTHER = 7, SWING = 8, ACCOUNT = 9, CAUSE = 10, RULE = 11, WAVES = 12;
let fight;

const unpacked = async (text) => {
  const letters = atob(text), bytes = new Uint8Array(letters.length);
  for (let n = 0; n < letters.length; n += 1) bytes[n] = letters.charCodeAt(n);
  return new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream("gzip"))).json();
};

// Frames hold what changed: how all stand in one is made from the last that is known whole before it.
const EVERY = 128;
/// How all stand in a frame: by number, [number, stands, health, maximum, place, facing, parts].
const figuresIn = (n) => {
  const known = fight.whole, { frames } = fight;
  let [from, figures] = fight.last && fight.last[0] <= n && n - fight.last[0] < EVERY ? fight.last : known[Math.floor(n / EVERY)] ?? [-1, new Map()];
  if (from !== n) {
    figures = new Map(figures);
    for (let next = from + 1; next <= n; next += 1) {
      for (const one of frames[next].changed) {
        if (one.length === 1) figures.delete(one[0]);
        else figures.set(one[0], one.length > 6 ? one : [...one, figures.get(one[0])[6]]);
      }
      if (next % EVERY === 0) known[next / EVERY] = [next, new Map(figures)];
    }
  }
  fight.last = [n, figures];
  return figures;
};

const indexed = (data) => {
  const { words } = data;
  for (const lane of data.lanes) {
    lane.swings = lane.swings.map(([swing, attack, from, to, windows, why]) => ({ swing, attack: words[attack], from, to, windows, why }));
    lane.choices = lane.choices.map(([tick, choice, target, dropped]) => ({ tick, choice: words[choice], target: target == null ? null : words[target], dropped: dropped == null ? null : words[dropped] }));
    lane.marks = lane.marks.map(([tick, sort, text]) => ({ tick, sort, text: words[text] }));
  }
  const lanes = new Map(data.lanes.map((lane) => [lane.name, lane]));
  const swings = new Map();
  for (const lane of data.lanes) for (const swung of lane.swings) swings.set(swung.swing, { lane, swung });
  const rowsOf = new Map();
  data.state.keys.forEach(([of], place) => rowsOf.set(of, [...(rowsOf.get(of) ?? []), place]));
  let obstacles = [];
  const frames = data.playback.frames.map(([tick, changed, hitboxes, touches, moved], n) => ({ n, tick, changed, hitboxes, touches, obstacles: obstacles = moved || obstacles }));
  return {
    ...data, frames, whole: [], last: null, laneOf: lanes, swings, rowsOf, accounts: [], results: new Map(), refused_starts: [], detailed: false,
    beginning: data.began + 1, lowered: null, sideOf: new Map(data.playback.names),
  };
};

/// Takes in the details of blows and swings, which come after the first look.
const detail = ({ words, accounts, results, refused_starts }) => {
  for (const account of accounts) { account.target = words[account.target]; account.part = account.part == null ? null : words[account.part]; }
  Object.assign(fight, { texts: words, accounts, results: new Map(results.map((result) => [result[0], result])), refused_starts, detailed: true });
};
const counted = (count, thing) => `${count} ${thing}${count === 1 ? "" : "s"}`;
const seconds = (tick) => (tick - 1) / fight.rate;
const timeText = (tick) => `${seconds(tick).toFixed(2)} s`;
const nameOf = (place) => place >= 0 ? fight.names[place] : null;
/// What came of a swing, if it is known.
const resultOf = (number) => {
  const known = fight.results.get(number), { texts: words } = fight, word = (place) => place == null ? null : words[place];
  if (!Array.isArray(known)) return known ?? null;
  const answer = ([tick, hit, part, gate]) => ({ tick, hit, part: words[part], ...(gate ? { gate: words[gate[0]], wanted: words[gate[1]], found: words[gate[2]], fix: words[gate[3]] } : {}) });
  const of = { swing: number, outcome: words[known[1]], targets: known[2].map((one) => ({ target: words[one.target], outcome: words[one.outcome], answers: (one.answers ?? []).map(answer), near: one.near ?? [], fix: word(one.fix), also: word(one.also) })) };
  fight.results.set(number, of);
  return of;
};
const markOf = (line) => fight.marks[line[MARK]][0];
/// The place of the first line of a tick or later.
const firstAt = (tick) => {
  let [low, high] = [0, fight.lines.length];
  while (low < high) { const middle = (low + high) >> 1; if (fight.lines[middle][TICK] < tick) low = middle + 1; else high = middle; }
  return low;
};
const linesAt = (tick) => {
  const found = [];
  for (let n = firstAt(tick); n < fight.lines.length && fight.lines[n][TICK] === tick; n += 1) found.push(n);
  return found;
};
/// The line that tells a fact of a tick.
const lineOf = (tick, fact) => linesAt(tick).find((n) => fight.lines[n][FIRST] <= fact && fact <= fight.lines[n][LAST]);
/// The lines of a swing, in order.
const linesOfSwing = (number) => {
  if (!fight.linesOf) {
    fight.linesOf = new Map();
    fight.lines.forEach((line, n) => { if (line[SWING] >= 0) { const known = fight.linesOf.get(line[SWING]); if (known) known.push(n); else fight.linesOf.set(line[SWING], [n]); } });
  }
  return fight.linesOf.get(number) ?? [];
};
const isAbout = (line, name) => nameOf(line[SUBJECT]) === name || nameOf(line[OTHER]) === name;
const frameAt = (tick) => {
  const { frames } = fight;
  let [low, high] = [0, frames.length - 1];
  while (low < high) { const middle = (low + high + 1) >> 1; if (frames[middle].tick <= tick) low = middle; else high = middle - 1; }
  return frames[Math.max(0, low)];
};

// How everything stands, as of the last tick that was asked for.
const standing = { tick: -1, of: null, values: [], next: 0 };
const standAt = (tick) => {
  const { changes } = fight.state;
  if (tick < standing.tick || standing.of !== fight) Object.assign(standing, { values: [], next: 0, of: fight });
  standing.tick = tick;
  for (; standing.next < changes.length && changes[standing.next][0] <= tick; standing.next += 1) {
    for (const [place, value] of changes[standing.next][1]) standing.values[place] = value;
  }
  const [from, changed] = standing.next ? changes[standing.next - 1] : [0, []];
  return { values: standing.values, fresh: new Set(from === tick ? changed.map(([place]) => place) : []) };
};
/// What is known of one, as [key, value, whether it changed in just this tick].
const stateOf = (name, tick) => {
  const { values, fresh } = standAt(tick);
  return (fight.rowsOf.get(name) ?? []).filter((place) => values[place] != null)
    .map((place) => [fight.state.keys[place][1], values[place], fresh.has(place)]);
};
/// What one chose last, by its tactics; none once that is dropped.
const choiceAt = (name, tick) => {
  const last = fight.laneOf.get(name)?.choices.findLast((chosen) => chosen.tick <= tick);
  return last && !last.dropped ? last : null;
};
const healthAt = (lane, tick) => lane.health.findLast(([from]) => from <= tick) ?? lane.health[0];
const standsAt = (lane, tick) => lane.from <= tick && (lane.to == null || tick <= lane.to) && !lane.down.some(([from, to]) => from <= tick && (to == null || tick < to));
