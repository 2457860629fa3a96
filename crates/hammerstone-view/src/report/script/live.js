// A page that is served: it asks for its state, takes in new data without losing the moment or the selection, and says what it wants.
const bar = byId("changes");
/// What a selection is, so that it is found again in another run of the fight.
const remembered = () => {
  const { chosen } = at;
  if (!chosen) return null;
  if (chosen.kind === "line") {
    const line = fight.lines[chosen.of], known = fight.swings.get(line[SWING]);
    return { kind: "line", tick: line[TICK], mark: markOf(line), text: line[TEXT], plain: line[TEXT].replace(/[0-9.]+/g, "#"), topic: fight.topics[line[TOPIC]], names: [nameOf(line[SUBJECT]), nameOf(line[OTHER])],
      swing: known && { name: known.lane.name, attack: known.swung.attack, from: known.swung.from } };
  }
  if (chosen.kind === "swing") { const { lane, swung } = fight.swings.get(chosen.of); return { kind: "swing", swing: { name: lane.name, attack: swung.attack, from: swung.from } }; }
  return { kind: chosen.kind, of: chosen.of };
};
const sameSwing = ({ name, attack, from }) => {
  const all = (fight.laneOf.get(name)?.swings ?? []).filter((one) => one.attack === attack && Math.abs(one.from - from) <= 2 * fight.rate);
  const near = all.sort((one, other) => Math.abs(one.from - from) - Math.abs(other.from - from))[0];
  return near ? { kind: "swing", of: near.swing } : null;
};
/// The selection in the new run; what is gone says so, and opens its swing, or the one that it was about.
const foundAgain = (was) => {
  if (!was) return { chosen: null, gone: null };
  if (was.kind === "line") {
    const here = linesAt(was.tick).find((n) => fight.lines[n][TEXT] === was.text);
    if (here !== undefined) return { chosen: { kind: "line", of: here }, gone: null };
    let near = null;
    for (let n = firstAt(was.tick - 2 * fight.rate); n < fight.lines.length && fight.lines[n][TICK] <= was.tick + 2 * fight.rate; n += 1) {
      const line = fight.lines[n], far = Math.abs(line[TICK] - was.tick);
      // The same sentence but for its numbers; or the same of the same two, by the same attack.
      const attack = fight.swings.get(line[SWING])?.swung.attack, alike = fight.topics[line[TOPIC]] === was.topic && same([nameOf(line[SUBJECT]), nameOf(line[OTHER])], was.names) && attack === was.swing?.attack;
      if (markOf(line) === was.mark && (alike || line[TEXT].replace(/[0-9.]+/g, "#") === was.plain) && (near === null || far < near.far)) near = { far, n };
    }
    if (near) return { chosen: { kind: "line", of: near.n }, gone: null };
    const swing = was.swing && sameSwing(was.swing), name = was.names.find((one) => one && fight.laneOf.has(one));
    return { chosen: swing ?? (name ? { kind: "who", of: name } : null), gone: `Not in this run: ${was.mark} ${was.text}${swing ? ". This is its swing." : ""}` };
  }
  if (was.kind === "swing") {
    const swing = sameSwing(was.swing);
    return { chosen: swing ?? (fight.laneOf.has(was.swing.name) ? { kind: "who", of: was.swing.name } : null), gone: swing ? null : `Not in this run: ${was.swing.name}'s ${was.swing.attack} at ${timeText(was.swing.from)}` };
  }
  const known = resolved(was.kind, was.of);
  return { chosen: known, gone: known ? null : `Not in this run: ${was.of}` };
};
/// Takes in another run, or more of this one.
const reload = (data, details, follow) => {
  const was = remembered(), kept = { tick: at.tick, from: at.from, to: at.to, whole: at.from <= lower() && at.to >= upper() };
  const text = search.value;
  fight = indexed(data);
  detail(details);
  Object.assign(at, foundAgain(was));
  if (kept.whole) Object.assign(at, { from: lower(), to: upper() });
  else range(kept.from, kept.to);
  search.value = text;
  const scrolled = [inspector.scrollTop, list.scrollTop];
  show("data"); show("size");
  go(follow ? fight.ticks : Math.min(kept.tick, fight.ticks), { still: !follow });
  show("choice");
  inspector.scrollTop = scrolled[0];
  if (!follow) list.scrollTop = scrolled[1];
};
const asks = async (path, body) => {
  // One that has gone may leave a question without an answer.
  const signal = AbortSignal.timeout(path === "data" ? 30000 : 4000);
  const answer = await fetch(path, body === undefined ? { signal } : { signal, method: "POST", body: JSON.stringify(body) });
  if (!answer.ok) throw new Error(await answer.text());
  return answer.status === 204 ? null : answer.json();
};
let version = 0, following = true, latest = null;
const sends = async (path, body) => {
  try { await asks(path, body); byId("trouble").textContent = ""; } catch (error) { byId("trouble").textContent = error.message; }
  await look();
};
/// A running game: stop, step, go on, and what it stops at.
const gameBar = (game) => {
  if (!byId("game")) {
    const press = (id, text, wanted, title) => { const button = make("button", { id, textContent: text, title }); button.addEventListener("click", () => sends("control", wanted())); return button; };
    const input = (id, words) => { const node = make("input", { id, placeholder: words, size: 16 }); node.setAttribute("aria-label", words); node.addEventListener("change", stops); return node; };
    const box = (id, words) => { const node = make("input", { id, type: "checkbox" }); node.addEventListener("change", stops); return make("label", {}, node, ` ${words}`); };
    const stops = () => sends("control", { stops: { topic: byId("stop-topic").value.trim(), name: byId("stop-name").value.trim(), deaths: byId("stop-deaths").checked, breaches: byId("stop-breaches").checked } });
    const follow = make("button", { id: "follow", textContent: "follow", title: "The cursor stays at the last tick" });
    follow.addEventListener("click", () => { following = true; go(fight.ticks); look(true); });
    bar.replaceChildren(make("div", { id: "game" }, press("hold", "stop", () => latest.game.held ? "go-on" : "hold"), press("step", "one tick", () => ({ step: 1 })), press("second", "one second", () => ({ step: fight?.rate ?? 60 })), follow,
      make("span", { className: "quiet", textContent: "stop at" }), input("stop-topic", "a topic"), input("stop-name", "a name"), box("stop-deaths", "deaths"), box("stop-breaches", "breaches"), make("a", { href: "log", textContent: "log" })),
      make("p", { id: "held" }), make("p", { id: "trouble", className: "look" }));
    const { topic, name, deaths, breaches } = game.stops;
    Object.assign(byId("stop-topic"), { value: topic }); Object.assign(byId("stop-name"), { value: name }); byId("stop-deaths").checked = deaths; byId("stop-breaches").checked = breaches;
  }
  byId("hold").textContent = game.held ? "go on" : "stop";
  byId("held").textContent = game.held ? `held: ${game.why}` : "running";
  byId("follow").setAttribute("aria-pressed", following);
};
/// A watched file: what is wrong with it; or which values changed, and what each did.
const signed = (value, digits) => `${value >= 0 ? "+" : "−"}${Math.abs(value).toFixed(digits)}`;
const shareText = (share, whole) => {
  if (!share) return "";
  const [times, unit, digits] = share.is_share ? [100, " %", 0] : [1, share.what === "seconds" ? " s" : "", 1], number = (value) => (value * times).toFixed(digits);
  const shown = share.interval.low > 0 || share.interval.high < 0, { low, high } = share.interval;
  return `${share.what} ${number(share.first)} → ${number(share.second)}${unit} (${signed(low * times, digits)} to ${signed(high * times, digits)}${shown ? "" : ", no difference shown"})${whole && !share.is_share ? ", mean" : ""}`;
};
const fileBar = ({ mistakes, refused, changes }) => {
  document.body.classList.toggle("mistaken", mistakes.length > 0);
  const focused = document.activeElement?.id === "try", tried = byId("try")?.value ?? "";
  const field = make("input", { id: "try", placeholder: "try PATH = VALUE, in memory", value: tried });
  field.setAttribute("aria-label", "a path and a value to try, in memory only"); field.setAttribute("list", "paths");
  const send = () => { const [path, ...value] = byId("try").value.split("="); byId("try").value = ""; sends("try", { path: path.trim(), value: value.join("=").trim() }); };
  field.addEventListener("keydown", (event) => { if (event.key === "Enter") send(); });
  const button = (text, path, body, title) => { const node = make("button", { textContent: text, title }); node.addEventListener("click", () => sends(path, body)); return node; };
  const trial = (one) => make("div", {}, button("✕", "try", { path: one.path, value: null }, "no longer tried"), " ", make("code", { textContent: one.line }), make("span", { className: "quiet", textContent: ` in ${one.place}: to keep it, paste this line` }));
  const cell = (text, title) => make("td", { textContent: text, title: title ?? "" });
  const row = (one) => make("tr", { className: one.whole ? "whole" : "" }, cell(one.label), cell(one.here || "…"), cell(one.ends ?? (one.seeds ? shareText(one.share) : one.running ? "…" : ""), one.rows.map((share) => shareText(share, true)).join("\n")), cell(one.without ?? ""));
  const seeds = Math.max(0, ...changes.rows.map((one) => one.seeds)), heads = make("tr", {}, ["changed", "this seed", !seeds ? "over many seeds" : changes.rows[0].ends ? `${seeds} seeds (95 %)` : `${seeds} seeds, each by both (95 %)`, changes.rows.length > 1 ? "all but it" : ""].map((text) => make("th", { textContent: text })));
  const parts = [];
  if (mistakes.length) parts.push(make("pre", { className: "mistakes", textContent: mistakes.join("\n") }));
  if (changes.rows.length) parts.push(make("table", {}, heads, changes.rows.map(row)));
  if (changes.rows.length === 1 && changes.rows[0].label === "as the baseline") parts.push(make("p", { className: "quiet", textContent: "Save a change of the files, or try a value: what it does stands here." }));
  bar.replaceChildren(make("div", { id: "values" }, ...parts, ...changes.tried.map(trial)),
    make("div", { id: "controls" }, make("div", {}, field, button("pin", "pin", null, "From now on this is the baseline")), make("p", { id: "trouble", className: "look", textContent: refused ?? "" }), make("p", { className: "quiet", textContent: changes.baseline })),
    make("datalist", { id: "paths" }, changes.paths.map((path) => make("option", { value: path }))));
  if (focused) { const again = byId("try"); again.focus(); again.setSelectionRange(again.value.length, again.value.length); }
};
let shownBar = "";
/// Looks whether there is anything new.
const look = async (now) => {
  let state;
  try { state = await asks("state"); } catch { document.body.classList.add("mistaken"); bar.hidden = false; bar.textContent = "The place that this page came from does not answer any more."; shownBar = ""; return; }
  if (shownBar === "") document.body.classList.remove("mistaken");
  latest = state;
  if (state.version && state.version !== version && (now || !fight || !state.game || following || state.game.held)) {
    const both = await asks("data");
    if (both) {
      version = state.version;
      if (fight) reload(both[0], both[1], Boolean(state.game) && following);
      else {
        load(both[0], both[1]);
        if (state.game && following) { at.chosen = null; go(fight.ticks); show("choice"); }
        document.documentElement.classList.add("detailed");
      }
      // Held at a fact, it is that fact that one wants to see.
      const fact = state.game?.held && following && state.game.fact, line = fact ? lineOf(...fact) : undefined;
      if (line !== undefined) choose({ kind: "line", of: line });
      document.documentElement.dataset.version = version;
    }
  }
  bar.hidden = false;
  if (state.game) { shownBar = "game"; return gameBar(state.game); }
  const text = JSON.stringify([state.mistakes, state.refused, state.changes]);
  if (text !== shownBar) { shownBar = text; fileBar(state); }
};
/// One who looks at another moment does not follow any more.
const unfollow = () => { if (latest?.game) { following = false; gameBar(latest.game); } };
for (const [part, sort] of [["lanes", "pointerdown"], ["overview", "pointerdown"], ["list", "pointerdown"], ["inspector", "click"], ["tick", "input"], ["jumps", "click"], ["play", "click"]]) byId(part).addEventListener(sort, unfollow);
const keepLooking = async () => {
  try { await look(); } catch (error) { console.error(error); }
  setTimeout(keepLooking, latest?.game ? 500 : 250);
};
