// The events: a list of which only what is seen is in the page, by kind, name, topic and text.
const list = byId("list"), rowsBox = byId("rows"), search = byId("search"), ROW = 20;
const filter = { hidden: new Set(["."]), about: false };
let shown = [];
const lowered = () => fight.lowered ??= fight.lines.map((line) => `${line[TEXT]} ${fight.topics[line[TOPIC]]}`.toLowerCase());
const filterLines = () => {
  const hidden = fight.marks.map(([mark]) => filter.hidden.has(mark)), words = search.value.trim().toLowerCase(), texts = words ? lowered() : null;
  const { chosen } = at, line = chosen?.kind === "line" ? fight.lines[chosen.of] : null;
  const about = !filter.about || !chosen ? null
    : chosen.kind === "who" ? (one) => isAbout(one, chosen.of)
    : chosen.kind === "swing" ? (one) => one[SWING] === chosen.of
    : chosen.kind === "rule" ? (one) => nameOfRule(one) === chosen.of
    : chosen.kind === "waves" ? (one) => fight.waves[one[WAVES]]?.name === chosen.of
    : line[SWING] >= 0 ? (one) => one[SWING] === line[SWING] : (one) => one === line;
  shown = [];
  fight.lines.forEach((one, n) => { if (!hidden[one[MARK]] && (!texts || texts[n].includes(words)) && (!about || about(one))) shown.push(n); });
  const all = fight.lines.length, left = fight.left_out.map(({ words: sort, count }) => `${count} ${sort}`).join(", ");
  byId("shown").textContent = `${shown.length}/${all}`;
  byId("shown").title = left ? `${shown.length} of ${all} events; no room for ${left}: hammerstone run has them` : `${shown.length} of ${all} events`;
  rowsBox.style.height = `${shown.length * ROW}px`;
  drawRows();
};
const nameOfRule = (line) => line[RULE] >= 0 ? fight.rules[line[RULE]]?.name : null;
/// The place in the list of the first line at or after the one with this number.
const placeOf = (number) => {
  let [low, high] = [0, shown.length];
  while (low < high) { const middle = (low + high) >> 1; if (shown[middle] < number) low = middle + 1; else high = middle; }
  return low;
};
const drawRows = () => {
  const first = Math.max(0, Math.floor(list.scrollTop / ROW) - 4), last = Math.min(shown.length, first + Math.ceil(list.clientHeight / ROW) + 9);
  const nodes = [];
  for (let n = first; n < last; n += 1) {
    const number = shown[n], line = fight.lines[number], mark = markOf(line);
    const classes = [line[TICK] === at.tick ? "now" : "", at.chosen?.kind === "line" && at.chosen.of === number ? "chosen" : "", "*X".includes(mark) ? "strong" : mark === "o" || mark === "." ? "faint" : ""];
    const node = make("div", { className: classes.filter(Boolean).join(" "), title: `${line[TEXT]} · ${fight.topics[line[TOPIC]]}`, dataset: { line: number } },
      make("time", { textContent: timeText(line[TICK]) }), make("i", { textContent: mark }), make("span", { textContent: line[TEXT] }));
    node.style.top = `${n * ROW}px`;
    node.setAttribute("role", "option"); node.setAttribute("aria-setsize", shown.length); node.setAttribute("aria-posinset", n + 1);
    node.setAttribute("aria-selected", classes[1] === "chosen"); node.id = `event${number}`;
    nodes.push(node);
  }
  rowsBox.replaceChildren(...nodes);
};
/// Brings the moment into sight.
const follow = () => {
  const number = at.chosen?.kind === "line" && fight.lines[at.chosen.of][TICK] === at.tick ? at.chosen.of : firstAt(at.tick), top = placeOf(number) * ROW;
  if (top < list.scrollTop || top + ROW > list.scrollTop + list.clientHeight) list.scrollTop = top - Math.floor(list.clientHeight / ROW / 3) * ROW;
};
list.addEventListener("scroll", drawRows);
rowsBox.addEventListener("click", (event) => {
  const row = event.target.closest("[data-line]");
  if (row) choose({ kind: "line", of: +row.dataset.line }, { still: true });
});
list.addEventListener("keydown", (event) => {
  const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10 }[event.key];
  if (!by) return;
  event.preventDefault();
  const chosen = at.chosen?.kind === "line" ? placeOf(at.chosen.of) + by : placeOf(firstAt(at.tick));
  const number = shown[Math.max(0, Math.min(shown.length - 1, chosen))];
  if (number === undefined) return;
  choose({ kind: "line", of: number });
  list.setAttribute("aria-activedescendant", `event${number}`);
});
search.addEventListener("input", filterLines);
byId("about").addEventListener("click", () => { filter.about = !filter.about; byId("about").setAttribute("aria-pressed", filter.about); filterLines(); follow(); });
parts.push({
  data() {
    const counts = fight.marks.map(() => 0);
    for (const line of fight.lines) counts[line[MARK]] += 1;
    byId("kinds").replaceChildren(...fight.marks.map(([mark, words], n) => {
      const button = make("button", { textContent: mark, title: `${words}: ${counts[n]}`, hidden: !counts[n], dataset: { shows: mark } });
      button.setAttribute("aria-label", `${words}, ${counts[n]}`); button.setAttribute("aria-pressed", !filter.hidden.has(mark));
      button.addEventListener("click", () => { if (!filter.hidden.delete(mark)) filter.hidden.add(mark); button.setAttribute("aria-pressed", !filter.hidden.has(mark)); filterLines(); });
      return button;
    }));
    filterLines();
  },
  size: drawRows,
  moment() { if (!at.still) follow(); drawRows(); },
  choice() { if (filter.about) filterLines(); if (!at.still) follow(); drawRows(); },
});
