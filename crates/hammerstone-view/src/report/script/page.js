// The moment, the range of the timeline and the selection, which all parts of the page follow; and the address, which holds them.
const at = { tick: 1, from: 0, to: 1, view: "above", chosen: null, gone: null };
let parts = [];
const show = (what) => parts.forEach((part) => part[what]?.());

const lower = () => fight.began, upper = () => Math.max(fight.ticks, fight.began + 1);
let linking = 0, playing = 0, quiet = true;
const same = (one, other) => JSON.stringify(one) === JSON.stringify(other);

// Each selection by what stays the same when the fight is run again.
const nameless = { line: (n) => `${fight.lines[n][TICK]}.${fight.lines[n][FIRST]}`, who: (name) => name, rule: (name) => name, waves: (name) => name,
  swing: (number) => { const { lane, swung } = fight.swings.get(number); return `${lane.name}@${swung.from}`; } };
const address = () => {
  const words = [`tick=${at.tick}`];
  if (at.view !== "above") words.push(`view=${at.view}`);
  if (at.from > lower() || at.to < upper()) words.push(`from=${Math.round(at.from)}`, `to=${Math.round(at.to)}`);
  if (at.chosen) words.push(`${at.chosen.kind}=${encodeURIComponent(nameless[at.chosen.kind](at.chosen.of))}`);
  return `#${words.join("&")}`;
};
const link = () => {
  clearTimeout(linking);
  if (!playing && !quiet) linking = setTimeout(() => history.replaceState(null, "", address()), 150);
};
const resolved = (kind, text) => {
  if (kind === "line") {
    const [tick, fact] = text.split(".").map(Number), of = lineOf(tick, fact);
    return of === undefined ? null : { kind, of };
  }
  if (kind === "swing") {
    const cut = text.lastIndexOf("@"), swung = fight.laneOf.get(text.slice(0, cut))?.swings.find((one) => one.from === +text.slice(cut + 1));
    return swung ? { kind, of: swung.swing } : null;
  }
  const known = { who: () => fight.laneOf.has(text), rule: () => fight.rules.some((one) => one.name === text), waves: () => fight.waves.some((one) => one.name === text) };
  return known[kind]?.() ? { kind, of: text } : null;
};
const readAddress = () => {
  const words = new URLSearchParams(location.hash.slice(1));
  let chosen;
  for (const kind of ["line", "swing", "who", "rule", "waves"]) if (words.has(kind)) chosen = resolved(kind, words.get(kind));
  return { tick: +words.get("tick") || 0, view: words.get("view"), from: words.get("from"), to: words.get("to"), chosen };
};

const go = (tick, given = {}) => {
  at.tick = Math.max(fight.beginning, Math.min(upper(), Math.round(tick)));
  // The cursor stays within the range that is shown.
  const wide = at.to - at.from;
  if (at.tick - 1 < at.from || at.tick > at.to) {
    at.from = Math.max(lower(), Math.min(at.tick - wide / 2, upper() - wide)); at.to = at.from + wide;
    show("range");
  }
  at.still = given.still ?? false;
  show("moment");
  link();
};
const choose = (chosen, given = {}) => {
  at.chosen = chosen; at.gone = null;
  if (chosen && given.go !== false) {
    const tick = chosen.kind === "line" ? fight.lines[chosen.of][TICK] : given.tick;
    if (tick) go(tick, given);
  }
  show("choice");
  link();
};
const range = (from, to) => {
  const least = Math.min(12, upper() - lower()), wide = Math.max(least, Math.min(to - from, upper() - lower()));
  at.from = Math.max(lower(), Math.min(from, upper() - wide)); at.to = at.from + wide;
  show("range"); show("moment"); link();
};
const zoom = (factor, around = at.tick) => range(around - (around - at.from) * factor, around + (at.to - around) * factor);
/// The attacker and the target that the selection, or else the last swing before the cursor, is about.
const pair = () => {
  const chosen = at.chosen;
  const ofSwing = (number) => {
    const known = fight.swings.get(number);
    if (!known) return null;
    const result = resultOf(number);
    const first = fight.lines[linesOfSwing(number).find((n) => "*o".includes(markOf(fight.lines[n])))];
    const target = result?.targets[0]?.target ?? (first && [nameOf(first[SUBJECT]), nameOf(first[OTHER])].find((name) => name && name !== known.lane.name));
    return { attacker: known.lane.name, target: target ?? null, swing: number };
  };
  if (chosen?.kind === "swing") return ofSwing(chosen.of);
  if (chosen?.kind === "line" && fight.lines[chosen.of][SWING] >= 0) {
    const line = fight.lines[chosen.of], of = ofSwing(line[SWING]);
    const other = [nameOf(line[SUBJECT]), nameOf(line[OTHER])].find((name) => name && name !== of?.attacker);
    return of && { ...of, target: other ?? of.target };
  }
  // What was hit or refused nearest in time, within a second; else the swing that began last.
  const who = chosen?.kind === "who" ? chosen.of : null;
  let near = null;
  for (let n = firstAt(at.tick - fight.rate); n < fight.lines.length && fight.lines[n][TICK] <= at.tick + fight.rate; n += 1) {
    const line = fight.lines[n], far = Math.abs(line[TICK] - at.tick) + (markOf(line) === "o" ? 0.5 : 0);
    if ("*o".includes(markOf(line)) && fight.swings.has(line[SWING]) && (!who || isAbout(line, who)) && (!near || far < near.far)) near = { far, line };
  }
  if (near) {
    const of = ofSwing(near.line[SWING]);
    return { ...of, target: [nameOf(near.line[SUBJECT]), nameOf(near.line[OTHER])].find((name) => name && name !== of.attacker) ?? of.target };
  }
  const lanes = who ? [fight.laneOf.get(who)] : fight.lanes;
  let last = null;
  for (const lane of lanes) for (const swung of lane.swings) if (swung.from <= at.tick && (!last || swung.from >= last.from)) last = swung;
  return last && ofSwing(last.swing);
};
/// The name that the selection is about, if it is about a combatant.
const chosenName = () => {
  const { chosen } = at;
  if (chosen?.kind === "who") return chosen.of;
  if (chosen?.kind === "swing") return fight.swings.get(chosen.of).lane.name;
  return null;
};

// The transport.
const jumps = [["*", "hit", "h"], ["o", "refusal", "r"], ["X", "death", "d"]];
const jump = (mark, way) => {
  const name = at.chosen?.kind === "who" ? at.chosen.of : null;
  const fits = (line) => markOf(line) === mark && (!name || isAbout(line, name));
  const start = at.chosen?.kind === "line" && fight.lines[at.chosen.of][TICK] === at.tick ? at.chosen.of + way : way > 0 ? firstAt(at.tick + 1) : firstAt(at.tick) - 1;
  for (let n = start; n >= 0 && n < fight.lines.length; n += way) if (fits(fight.lines[n])) return name ? go(fight.lines[n][TICK]) : choose({ kind: "line", of: n });
};
for (const [mark, words, key] of jumps) for (const way of [-1, 1]) {
  const button = make("button", { textContent: way < 0 ? `‹ ${words}` : `${words} ›`, title: `${way < 0 ? "the one before" : "the next"} (key ${way < 0 ? `shift ${key}` : key})`, dataset: { jump: mark, way } });
  button.setAttribute("aria-label", `${words} ${way < 0 ? "before" : "after"} the cursor`);
  button.addEventListener("click", () => jump(mark, way));
  byId("jumps").append(button);
}
const slider = byId("tick"), playButton = byId("play");
slider.addEventListener("input", () => go(+slider.value));
const stop = () => { cancelAnimationFrame(playing); playing = 0; playButton.textContent = "play"; link(); };
playButton.addEventListener("click", () => {
  if (playing) return stop();
  playButton.textContent = "pause";
  let begun = null;
  const from = at.tick >= upper() ? fight.beginning : at.tick;
  const turn = (time) => {
    begun ??= time;
    go(from + (time - begun) / 1000 * fight.rate * +byId("speed").value);
    if (at.tick >= upper()) return stop();
    playing = requestAnimationFrame(turn);
  };
  playing = requestAnimationFrame(turn);
});
byId("link").addEventListener("click", async () => {
  history.replaceState(null, "", address());
  try { await navigator.clipboard.writeText(location.href); byId("link").textContent = "copied"; } catch { byId("link").textContent = "it is in the address"; }
  setTimeout(() => { byId("link").textContent = "copy link"; }, 1500);
});
for (const button of byId("views").children) button.addEventListener("click", () => { at.view = button.dataset.view; show("choice"); link(); });
document.addEventListener("keydown", (event) => {
  if (/^(INPUT|SELECT|TEXTAREA)$/.test(event.target.tagName) || event.ctrlKey || event.metaKey || event.altKey || !fight) return;
  const step = event.shiftKey ? fight.rate : 1;
  const keys = {
    ArrowRight: () => go(at.tick + step), ArrowLeft: () => go(at.tick - step), h: () => jump("*", 1), H: () => jump("*", -1), r: () => jump("o", 1), R: () => jump("o", -1),
    d: () => jump("X", 1), D: () => jump("X", -1), "+": () => zoom(0.5), "-": () => zoom(2), 0: () => range(lower(), upper()), Escape: () => choose(null), "/": () => byId("search").focus(),
  };
  if (event.key === " " && event.target.tagName !== "BUTTON" && event.target.tagName !== "SUMMARY") keys[" "] = () => playButton.click();
  if (keys[event.key]) { keys[event.key](); event.preventDefault(); }
});
parts.push({
  data() {
    document.title = fight.title;
    const { counts } = fight, troubled = fight.checks.filter((check) => !check.fine);
    const damage = fight.dealt.reduce((sum, one) => sum + one.amount, 0);
    const verdict = make("button", { className: troubled.length ? "look" : "fine", textContent: troubled.length ? `! ${troubled.length} of ${fight.checks.length} checks to look at` : "checks fine" });
    verdict.addEventListener("click", () => choose(null));
    byId("head").replaceChildren(
      make("h1", { textContent: fight.title, title: fight.title }), make("span", {}, make("b", { textContent: fight.outcome ?? (byId("game") ? "running" : "no outcome") }), `${fight.outcome || !byId("game") ? " after" : ","} ${timeText(fight.ticks + 1)}`),
      make("span", { className: "quiet", textContent: `${counted(fight.lanes.length, "combatant")} · ${counted(fight.deaths.length, "death")} · ${damage} damage · ${counts.attempts} attempts = ${counts.hits} hits + ${counts.refusals} refusals · seed ${fight.seed}` }), verdict);
    slider.min = fight.beginning; slider.max = upper();
  },
  moment() {
    slider.value = at.tick;
    const frame = fight.frames.length ? frameAt(at.tick) : null;
    const stand = frame ? [...figuresIn(frame.n).values()].filter((one) => one[1]).length : 0;
    byId("moment").textContent = `${timeText(at.tick)}, tick ${at.tick}: ${stand} stand`;
  },
  choice() { for (const button of byId("views").children) button.setAttribute("aria-selected", button.dataset.view === at.view); },
});
