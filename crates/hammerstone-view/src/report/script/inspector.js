// The inspector: what is chosen, taken apart; without a selection the fight as a whole.
const inspector = byId("inspector");
/// A button that chooses something.
const to = (text, chosen, given) => {
  const button = make("button", { className: "to", textContent: text });
  button.addEventListener("click", () => choose(chosen, given));
  return button;
};
const toWho = (name) => name == null ? "the environment" : fight.laneOf.has(name) ? to(name, { kind: "who", of: name }) : name;
const toRule = (name) => fight.rules.some((rule) => rule.name === name) ? to(name, { kind: "rule", of: name }) : name;
const toLine = (n, text) => to(text ?? fight.lines[n][TEXT], { kind: "line", of: n });
const toTopic = (topic) => { const button = make("button", { className: "to", textContent: topic, title: "Show its events" }); button.addEventListener("click", () => { search.value = topic; filterLines(); list.scrollTop = 0; }); return button; };
const toTick = (tick) => { const button = make("button", { className: "to", textContent: timeText(tick), isTime: true }); button.addEventListener("click", () => go(tick)); return button; };
const toSwing = (number) => { const known = fight.swings.get(number); return known ? to(`${known.lane.name}'s ${known.swung.attack}`, { kind: "swing", of: number }, { go: false }) : `swing ${number}`; };
const said = (...parts) => make("p", {}, ...parts);
const quietly = (...parts) => make("p", { className: "quiet" }, ...parts);
const times = (count) => count === 0 ? "never" : count === 1 ? "once" : `${count} times`;
const head = (text) => make("h3", { textContent: text });
const table = (heads, rows, numbers = []) => make("table", {}, heads && make("tr", {}, heads.map((text, n) => make("th", { textContent: text, className: numbers.includes(n) ? "number" : "" }))),
  rows.map((cells) => make("tr", {}, cells.map((cell, n) => make("td", { className: numbers.includes(n) ? "number" : cell?.isTime ? "time" : "" }, cell instanceof Node || Array.isArray(cell) ? cell : String(cell ?? ""))))));
const fold = (title, open, ...inside) => { const node = make("details", { open }, make("summary", { textContent: title }), ...inside); return node; };
const some = (rows, most, draw) => {
  const box = make("div", {}, draw(rows.slice(0, most)));
  if (rows.length > most) { const more = make("button", { textContent: `and ${rows.length - most} more` }); more.addEventListener("click", () => box.replaceChildren(draw(rows))); box.append(more); }
  return box;
};
const meter = (text, held, most, side) => { const fill = make("i"); fill.style.cssText = `width:${100 * Math.max(0, Math.min(1, held / Math.max(1, most)))}%;background:var(--side${side % 6})`; return make("div", { className: "meter" }, fill, make("span", { textContent: text })); };
const listOf = (numbers, most = 12) => some(numbers, most, (some) => table(null, some.map((n) => [toTick(fight.lines[n][TICK]), markOf(fight.lines[n]), toLine(n)])));

const sums = (of, rows = fight.dealt) => {
  const all = new Map();
  for (const one of rows) all.set(of(one), (all.get(of(one)) ?? 0) + one.amount);
  return [...all].sort((one, other) => other[1] - one[1]);
};
const bars = (rows, name = (text) => text) => {
  const most = Math.max(1, ...rows.map(([, sum]) => sum));
  return some(rows, 8, (some) => table(null, some.map(([text, sum]) => { const bar = make("span", { className: "share" }); bar.style.width = `${120 * Math.max(0, sum) / most}px`; return [name(text), [bar, String(sum)]]; })));
};
const withoutSelection = () => {
  const failed = fight.checks.filter((check) => !check.fine), fine = fight.checks.filter((check) => check.fine), { counts } = fight;
  const check = (one) => make("p", {}, make("b", { textContent: one.fine ? "✓ " : "! " }), one.at ? [toTick(one.at), " "] : "", make("pre", { textContent: one.text }));
  const deaths = fight.lines.map((line, n) => [line, n]).filter(([line]) => markOf(line) === "X").map(([, n]) => n);
  const refusals = counts.gates.filter(([, count]) => count).map(([gate, count]) => {
    const first = fight.lines.findIndex((line) => markOf(line) === "o" && line[TEXT].includes(`: ${gate} (`));
    return [first >= 0 ? toLine(first, gate) : gate, count, first >= 0 ? fight.lines[first][TEXT] : ""];
  });
  const started = fight.refused_starts;
  return [
    make("h2", { textContent: "The fight as a whole" }),
    fight.left_out.length ? quietly(`The page has no room for ${fight.left_out.map(({ words, count }) => `${count} ${words}`).join(", ")}: hammerstone run and explain have them all.`) : "",
    failed.length ? fold(`To look at: ${failed.length}`, true, failed.map(check)) : "",
    fold(`Deaths: ${deaths.length}`, true, deaths.length ? listOf(deaths, 6) : quietly("no one died")),
    fold("Damage", true, head("dealt by"), bars(sums((one) => one.source), toWho), head("taken by"), bars(sums((one) => one.target), toWho), head("with"), bars(sums((one) => one.by)), head("damage type"), bars(sums((one) => one.damage_type))),
    fold(`Refusals, by gate: ${counts.refusals} of ${counts.attempts} attempts`, true, table(["gate", "times", "the first that is told"], refusals, [1])),
    started.length ? fold(`Attacks that could not start: ${started.reduce((sum, one) => sum + one.times, 0)}`, false, some(started, 12, (some) => some.map(refusedStart))) : "",
    fight.rules.length ? fold(`Rules: ${fight.rules.length}`, false, table(["rule", "listens to", "heard", "fired"], fight.rules.map((rule) => [toRule(rule.name), rule.listens, rule.heard, rule.fired]), [2, 3])) : "",
    fight.waves.length ? fold(`Waves: ${fight.waves.length}`, true, table(null, fight.waves.map((waves) => [to(waves.name, { kind: "waves", of: waves.name }), waves.template, `${waves.steps.length} steps`]))) : "",
    fold("How the encounter stands at the cursor", false, make("div", { id: "encounter-state" })),
    fold(`Checks that are fine: ${fine.length}`, !failed.length, fine.map(check)),
  ];
};
const refusedStart = (one) => said(toTick(one.tick), ` ${one.times > 1 ? `to ${one.to.toFixed(2)} s, ${one.times} times` : ""} `, toWho(one.attacker), ` does not start ${one.attack}: ${one.why}${one.until != null ? `; from ${one.until.toFixed(2)} s on it could` : ""}`);

const ledger = (account) => account.amounts.map(([type, amount, excess, steps]) => make("div", {},
  make("h3", { textContent: `${amount} ${type == null ? "healed" : fight.texts[type]}${account.critical ? ", critical" : ""}${excess ? `, ${excess} more than the maximum` : ""}` }),
  steps.length ? table(["step", "before", "after", "because"], steps.map((step) => step.map((place) => fight.texts[place])), [1, 2]) : quietly("its ledger was not kept")));
const ofLine = (n) => {
  const line = fight.lines[n], account = line[ACCOUNT] >= 0 ? fight.accounts[line[ACCOUNT]] : null, mark = markOf(line), [subject, other] = [nameOf(line[SUBJECT]), nameOf(line[OTHER])];
  const cause = line[CAUSE] >= 0 ? lineOf(line[TICK], line[CAUSE]) : undefined;
  const led = linesAt(line[TICK]).filter((one) => one !== n && fight.lines[one][CAUSE] >= line[FIRST] && fight.lines[one][CAUSE] <= line[LAST] && markOf(fight.lines[one]) !== ".");
  const nodes = [make("h2", { textContent: `${mark} ${line[TEXT]}` }),
    quietly(toTick(line[TICK]), `, tick ${line[TICK]} · `, toTopic(fight.topics[line[TOPIC]]), ` · fact ${line[FIRST]}`, account?.hit ? ` · hit ${account.hit}` : ""),
    said(subject ? ["of ", toWho(subject)] : "", other ? [", ", toWho(other)] : "", line[SWING] >= 0 ? [" · in ", toSwing(line[SWING])] : "", line[RULE] >= 0 ? [" · rule ", toRule(nameOfRule(line))] : "",
      line[WAVES] >= 0 ? [" · ", to(fight.waves[line[WAVES]].name, { kind: "waves", of: fight.waves[line[WAVES]].name })] : "")];
  if (account) {
    const { contact } = account;
    nodes.push(ledger(account));
    if (account.health) nodes.push(said(`health ${account.health[0]} to ${account.health[1]}, of ${account.health[2]}`));
    if (contact) nodes.push(head("Contact"), said(`window ${contact.window}${contact.body ? `, projectile ${contact.body}` : ""}, on the ${account.part}, at [${contact.point.map((x) => x.toFixed(2)).join(", ")}] m${contact.toi != null ? `, ${contact.toi.toFixed(2)} into the tick` : ""}${account.rewound ? `, rewound by ${account.rewound} ticks` : ""}`));
    if (account.gates?.length) nodes.push(head("Gates passed"), quietly(account.gates.map((place) => fight.texts[place]).join(" · ")));
    if (account.followed?.length) nodes.push(head("Then"), account.followed.map((place) => said(fight.texts[place])));
    if (account.heard?.length) nodes.push(head("Heard by"), account.heard.map(([topic, by]) => said(toTopic(fight.texts[topic]), ": ", by.map((place) => fight.texts[place]).map((who, n) => [n ? ", " : "", who.startsWith("rule ") ? ["rule ", toRule(who.slice(5))] : who]).flat())));
    if (account.answered?.length) nodes.push(head("What they did about it"), account.answered.map((place) => said(fight.texts[place])));
  }
  if (mark === "o") {
    const target = resultOf(line[SWING])?.targets.find((one) => one.target === subject || one.target === other);
    const answer = target?.answers.find((one) => one.tick === line[TICK] && one.gate && line[TEXT].includes(one.gate));
    if (answer) nodes.push(head("The gate"), table(null, [["gate", answer.gate], ["wanted", answer.wanted], ["found", answer.found]]), answer.fix ? said(make("b", { textContent: "to let it pass: " }), answer.fix) : "");
  }
  if (mark === "X") nodes.push(...lifeOf(subject, line[TICK]));
  if (cause !== undefined && cause !== n) nodes.push(head("Because of"), listOf([cause]));
  if (led.length) nodes.push(head("It led to"), listOf(led));
  return nodes;
};
/// Everything that the health of one lost and gained in the life that a tick belongs to; the last of it taken apart.
const lifeOf = (name, tick) => {
  const lane = fight.laneOf.get(name), born = Math.max(lane?.from ?? 0, ...(lane?.down ?? []).filter(([from, to]) => to != null && to <= tick && from < tick).map(([, to]) => to));
  const numbers = [];
  for (let n = firstAt(born); n < fight.lines.length && fight.lines[n][TICK] <= tick; n += 1) {
    const account = fight.accounts[fight.lines[n][ACCOUNT]];
    if (account?.target === name && account.amounts.some(([, amount]) => amount)) numbers.push(n);
  }
  if (!numbers.length) return [quietly("its health lost nothing in this life")];
  const last = fight.accounts[fight.lines[numbers[numbers.length - 1]][ACCOUNT]];
  return [head("The last of it"), toLine(numbers[numbers.length - 1]), ledger(last), head(`All that its health lost and gained since ${timeText(born)}`), listOf([...numbers].reverse(), 20)];
};
const ofWho = (name) => {
  const lane = fight.laneOf.get(name), tick = at.tick, [, held, most] = healthAt(lane, tick);
  const present = standsAt(lane, tick), state = stateOf(name, tick).filter(([key]) => !["life", "team", "health"].includes(key));
  const swung = lane.swings.findLast((one) => one.from <= tick && tick <= (one.to ?? fight.ticks));
  const refused = new Map(), off = new Map();
  let [taken, healed] = [0, 0];
  for (const line of fight.lines) {
    if (markOf(line) === "o" && fight.topics[line[TOPIC]] === "hit.refused") {
      const at = line[TEXT].match(/: ([a-z-]+) \(/);
      if (at && isAbout(line, name) && fight.swings.get(line[SWING])?.lane !== lane) refused.set(at[1], (refused.get(at[1]) ?? 0) + 1);
    }
    const account = fight.accounts[line[ACCOUNT]];
    if (account?.target !== name) continue;
    for (const [type, amount, , steps] of account.amounts) {
      if (type == null) healed += amount; else taken += amount;
      for (const [step, before, after] of steps) { const by = fight.texts[after] - fight.texts[before]; if (before !== after && Number.isFinite(by)) off.set(fight.texts[step], (off.get(fight.texts[step]) ?? 0) + by); }
    }
  }
  const near = [];
  for (let n = firstAt(tick + 1) - 1; n >= 0 && near.length < 8; n -= 1) if (isAbout(fight.lines[n], name) && markOf(fight.lines[n]) !== ".") near.push(n);
  const deaths = fight.lines.map((line, n) => n).filter((n) => markOf(fight.lines[n]) === "X" && nameOf(fight.lines[n][SUBJECT]) === name);
  const spared = fight.lines.map((line, n) => n).filter((n) => fight.topics[fight.lines[n][TOPIC]] === "combatant.spared" && nameOf(fight.lines[n][SUBJECT]) === name);
  const gauge = lane.gauges.map((one) => { const now = one.held.findLast(([from]) => from <= tick) ?? one.held[0]; return meter(`${one.name} ${now[1]} of ${now[2]}`, now[1], now[2], lane.side); });
  const started = fight.refused_starts.filter((one) => one.attacker === name);
  return [make("h2", { textContent: `${sideLetter(lane.side)} ${name}` }),
    quietly(`${lane.template}, ${lane.team} · at ${timeText(tick)}: ${present ? "stands" : lane.from > tick ? "not there yet" : lane.to != null && lane.to < tick ? "gone" : "down"}`),
    meter(`health ${held} of ${most}`, held, most, lane.side), gauge,
    swung ? said("in ", toSwing(swung.swing), `, tick ${tick - swung.from + 1} of it`) : "",
    state.length ? table(null, state.map(([key, value, fresh]) => [make("span", { className: fresh ? "new" : "", textContent: key }), value])) : "",
    head("Events until the cursor"), near.length ? listOf(near) : quietly("none yet"),
    head("In the whole fight"), said(`took ${taken}, was healed by ${healed}, died ${times(deaths.length)}${deaths.length ? ": " : ""}`, deaths.map((n, k) => [k ? ", " : "", toLine(n, timeText(fight.lines[n][TICK]))]).flat()),
    spared.length ? [said("death was prevented"), listOf(spared)] : "",
    off.size ? [quietly("what each step of the ledgers added to the blows at it, in points"), table(["step", "points"], [...off].sort((one, other) => one[1] - other[1]).map(([step, by]) => [step, by.toFixed(2)]), [1])] : "",
    refused.size ? [quietly("refusals at it that are told, by gate"), table(["gate", "times"], [...refused].sort((one, other) => other[1] - one[1]), [1])] : "",
    lane.swings.length ? fold(`Its swings: ${lane.swings.length}`, false, some(lane.swings, 20, (some) => table(null, some.map((one) => [toTick(one.from), one.attack, to(resultOf(one.swing)?.outcome ?? "its events", { kind: "swing", of: one.swing }, { go: false })])))) : "",
    started.length ? fold(`Attacks that it could not start: ${started.reduce((sum, one) => sum + one.times, 0)}`, false, some(started, 12, (some) => some.map(refusedStart))) : "",
  ].flat();
};
const ofSwing = (number) => {
  const { lane, swung } = fight.swings.get(number), result = resultOf(number), end = swung.to ?? fight.ticks, long = end - swung.from + 1;
  const phases = make("div", { className: "phases", title: "startup, open windows, recovery; the line is the cursor" });
  const bar = (from, to, name) => { const node = make("i", { className: name }); node.style.left = `${100 * (from - swung.from) / long}%`; if (name === "open") node.style.background = `var(--side${lane.side % 6})`; if (to) node.style.width = `${100 * (to - from) / long}%`; phases.append(node); };
  swung.windows.forEach(([from, to]) => bar(from, (to ?? end) + 1, "open"));
  if (at.tick >= swung.from && at.tick <= end) bar(at.tick, null, "here");
  const ticks = (from, to) => `${timeText(from)} to ${((to) / fight.rate).toFixed(2)} s, ${to - from + 1} ticks`, first = swung.windows[0]?.[0], last = swung.windows.at(-1)?.[1];
  const spans = [first === undefined ? ["never open", ticks(swung.from, end)] : ["startup", first > swung.from ? ticks(swung.from, first - 1) : "none"],
    ...swung.windows.map(([from, to], n) => [`window ${n + 1}`, ticks(from, to ?? end)]), ...(last != null && last < end ? [["recovery", ticks(last + 1, end)]] : [])];
  const events = linesOfSwing(number).filter((n) => markOf(fight.lines[n]) !== ".");
  const seen = byWhat(result);
  return [make("h2", { textContent: `${lane.name}'s ${swung.attack}: ${result?.outcome ?? "what it met is in its events"}` }),
    quietly(`swing ${number} of `, toWho(lane.name), `, `, toTick(swung.from), swung.why ? ` · ended: ${swung.why}` : ""), phases, table(null, spans), seen, head("Its events"), events.length ? listOf(events, 16) : quietly("none")].flat();
};
const byWhat = (result) => (result?.targets ?? []).map((target) => make("div", {}, make("h3", {}, toWho(target.target), `: ${target.outcome}`),
  target.answers.length ? some(target.answers, 12, (some) => table(null, some.map((one) => {
    const there = linesAt(one.tick).find((n) => fight.lines[n][SWING] === result.swing && isAbout(fight.lines[n], target.target) && markOf(fight.lines[n]) === (one.hit ? "*" : "o") && (one.hit || fight.lines[n][TEXT].includes(one.gate)));
    const text = one.hit ? `hit ${one.hit}, on the ${one.part}` : `refused on the ${one.part} by ${one.gate}: wanted ${one.wanted}, found ${one.found}`;
    return [toTick(one.tick), there === undefined ? text : toLine(there, text), one.fix ? `to let it pass: ${one.fix}` : ""];
  }))) : "",
  target.near.map((near) => said(toTick(near.tick), ` nearest ${{ window: "with no window open", layer: `open, but not for the layer ${near.layer}` }[near.obstacle] ?? "while open"}: hitbox ${near.hitbox} and the ${near.part}, `, make("b", { textContent: near.distance > 0 ? `${near.distance.toFixed(2)} m apart` : "overlapped" }))),
  !target.answers.length && target.fix ? said(make("b", { textContent: "to let it strike: " }), target.fix) : "", target.also ? said(`also, ${target.also}`) : ""));
const ofRule = (name) => {
  const rule = fight.rules.find((one) => one.name === name), ear = fight.wiring.topics.flatMap((topic) => topic.listeners).find((one) => one.sort === "rule" && one.name === name);
  const time = (one) => { const tick = Math.round(one.time * fight.rate) + 1, line = lineOf(tick, one.seq); return line === undefined ? toTick(tick) : Object.assign(toLine(line, timeText(tick)), { isTime: true }); };
  return [make("h2", { textContent: `rule ${name}` }), quietly(`listens to ${rule.listens}: heard ${times(rule.heard)}, fired ${times(rule.fired)}${ear?.terms.length ? ` · ${ear.terms.join(" · ")}` : ""}`),
    rule.heard ? "" : said(`what it waits for never came: ${rule.topics.map(([topic]) => topic).join(", ")}`),
    head("What it heard"), some(rule.hearings, 30, (some) => table(null, some.map((one) => [time(one), make("b", { textContent: one.fired ? "fired" : "not" }), [one.fact, ...(one.lost ?? []).map(({ wanted, found }, n) => make("div", { className: "quiet", textContent: `${n ? "or" : "wanted"} ${wanted}${found != null ? `, found ${found}` : ""}` }))]]))),
    rule.heard > rule.hearings.length ? quietly(`the first ${rule.hearings.length} of ${rule.heard}; hammerstone explain --rule has all`) : ""];
};
const ofWaves = (name) => {
  const waves = fight.waves.find((one) => one.name === name);
  return [make("h2", { textContent: `waves ${name}: ${waves.template}` }), waves.steps.length ? table(null, waves.steps.map(([time, text]) => [toTick(Math.round(time * fight.rate) + 1), text])) : said("it never began: no rule and no order started it")];
};
const kinds = { line: ofLine, who: ofWho, swing: ofSwing, rule: ofRule, waves: ofWaves };
const encounterState = () => {
  const box = byId("encounter-state"), rows = box ? stateOf(null, at.tick) : [];
  box?.replaceChildren(rows.length ? table(null, rows.map(([key, value, fresh]) => [make("span", { className: fresh ? "new" : "", textContent: key }), value])) : quietly("no flags, counters, scores or waves"));
  if (fight.state.grain > 1) box?.append(quietly(`told in steps of ${fight.state.grain} ticks, since so much changes in this fight`));
};
const inspect = () => {
  const { chosen, gone } = at;
  const nodes = chosen ? kinds[chosen.kind](chosen.of) : withoutSelection();
  if (chosen) {
    const close = make("button", { textContent: "✕", title: "The fight as a whole (key Escape)" });
    close.setAttribute("aria-label", "close, and show the fight as a whole");
    close.addEventListener("click", () => choose(null));
    nodes[0] = make("div", { className: "top" }, nodes[0], close);
  }
  if (!fight.detailed) nodes.splice(1, 0, quietly("ledgers and results of swings are being unpacked …"));
  if (gone) nodes.unshift(make("p", {}, make("b", { textContent: gone })));
  inspector.replaceChildren(...nodes.flat(3).filter((node) => node !== "" && node != null));
  encounterState();
};
parts.push({
  data: () => { inspector.scrollTop = 0; },
  choice() { inspect(); inspector.scrollTop = 0; },
  moment() { if (at.chosen && ["who", "swing"].includes(at.chosen.kind)) { const kept = inspector.scrollTop; inspect(); inspector.scrollTop = kept; } else encounterState(); },
});
