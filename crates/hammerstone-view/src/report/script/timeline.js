// The timeline: an overview of the whole fight, and lanes of the range that is shown.
const overview = byId("overview"), lanesCanvas = byId("lanes"), labels = byId("labels");
const HIGH = 22, FITTING = 12;
const opened = new Set();
let rows = [];
/// A row for each combatant; where there are more than fit, those of one team and template share one, which opens when it is clicked.
const layRows = () => {
  const groups = new Map();
  for (const lane of fight.lanes) {
    const key = `${lane.team}|${lane.template}`;
    groups.set(key, [...(groups.get(key) ?? []), lane]);
  }
  // The most numerous share first, until all fit.
  let count = fight.lanes.length;
  const shared = new Set();
  for (const [key, lanes] of [...groups].sort((one, other) => other[1].length - one[1].length)) {
    if (count <= FITTING || lanes.length < 2) break;
    shared.add(key); count -= lanes.length - 1;
  }
  rows = [];
  const done = new Set();
  for (const lane of fight.lanes) {
    const key = `${lane.team}|${lane.template}`;
    if (!shared.has(key)) { rows.push({ lane }); continue; }
    if (done.has(key)) continue;
    done.add(key);
    const lanes = groups.get(key);
    rows.push({ group: key, lanes, sums: sumsOf(lanes) });
    if (opened.has(key)) for (const one of lanes) rows.push({ lane: one, inner: true });
  }
};
/// Damage taken, and deaths, of several together, in order of time.
const sumsOf = (lanes) => {
  const [damage, deaths, changes] = [[], [], []];
  for (const lane of lanes) {
    changes.push([lane.from, 1]);
    let down = false;
    for (const [from, to] of lane.down) { if (!down) changes.push([from, -1]); down = to == null; if (to != null) changes.push([to, 1]); }
    if (lane.to != null && !down) changes.push([lane.to + 1, -1]);
    for (const mark of lane.marks) {
      if (mark.sort === "damaged") damage.push([mark.tick, parseFloat(mark.text.replace(/[^0-9.]/g, "")) || 0]);
      if (mark.sort === "died") deaths.push(mark.tick);
    }
  }
  const inOrder = (one, other) => one[0] - other[0];
  return { damage: damage.sort(inOrder), deaths: deaths.sort((one, other) => one - other), changes: changes.sort(inOrder) };
};
const labelRows = () => {
  const scrolled = labels.scrollTop;
  labels.replaceChildren(...rows.map((row) => {
    const side = (row.lane ?? row.lanes[0]).side;
    const mark = make("span", { textContent: `${sideLetter(side)} ` });
    mark.style.color = `var(--side${side % 6})`;
    const text = row.lane ? row.lane.name : `${opened.has(row.group) ? "▾" : "▸"} ${row.lanes.length} × ${row.lanes[0].template}`;
    const button = make("button", { className: row.inner ? "inner" : "", title: row.lane ? `${row.lane.name}: ${row.lane.template}, ${row.lane.team}` : `${text.slice(2)} of ${row.lanes[0].team}: click to ${opened.has(row.group) ? "close" : "open"}` }, mark, text);
    if (row.group) button.setAttribute("aria-expanded", opened.has(row.group));
    button.addEventListener("click", () => {
      if (row.lane) return choose({ kind: "who", of: row.lane.name });
      if (!opened.delete(row.group)) opened.add(row.group);
      layRows(); labelRows(); drawLanes();
    });
    return button;
  }));
  labels.scrollTop = scrolled;
};
const pressRows = () => [...labels.children].forEach((button, n) => button.setAttribute("aria-pressed", rows[n].lane ? rows[n].lane.name === chosenName() : false));
/// The shape of a sort of event.
const glyph = (pen, sort, x, y, fill) => {
  const ink = colour("ink"), paper = colour("paper");
  const path = (points, filled, line = fill, width = 1.3) => {
    pen.beginPath(); points.forEach(([dx, dy], n) => n ? pen.lineTo(x + dx, y + dy) : pen.moveTo(x + dx, y + dy));
    if (filled) { pen.closePath(); pen.fillStyle = filled; pen.fill(); }
    pen.strokeStyle = line; pen.lineWidth = width; pen.stroke();
  };
  switch (sort) {
    case "struck": return path([[-4, -4], [4, 0], [-4, 4]], ink, paper, 1);
    case "damaged": return path([[-4, -3], [4, -3], [0, 4]], fill);
    case "healed": path([[-4, 0], [4, 0]]); return path([[0, -4], [0, 4]]);
    case "refused": pen.beginPath(); pen.arc(x, y, 2.4, 0, 7); pen.fillStyle = paper; pen.fill(); pen.strokeStyle = colour("quiet"); pen.lineWidth = 1.2; return pen.stroke();
    case "crossed": return path([[0, -4], [4, 0], [0, 4], [-4, 0], [0, -4]], paper);
    case "spared": return path([[-4, -4], [4, -4], [4, 0], [0, 4], [-4, 0], [-4, -4]], paper);
    case "died": path([[-4, -4], [4, 4]], null, ink, 2.2); return path([[4, -4], [-4, 4]], null, ink, 2.2);
    case "returned": return path([[-4, 3], [4, 3], [0, -4], [-4, 3]], paper);
    case "said": return path([[-4, -4], [5, -4], [5, 2], [-1, 2], [-4, 5], [-4, -4]], paper);
    default: path([[-4, -2], [3, -2], [3, 3], [-4, 3], [-4, -2]], paper, colour("quiet")); return path([[-4, -2], [3, 3]], null, colour("quiet"));
  }
};
const xOf = (tick, wide) => (tick - 1 - at.from) / (at.to - at.from) * wide;
const stepOf = (ticks, wide) => {
  const one = ticks / fight.rate / Math.max(1, wide / 70);
  return [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60, 120, 300].find((step) => step >= one) ?? 600;
};
const drawLane = (pen, lane, top, wide) => {
  const side = sideColour(lane.side), x = (tick) => xOf(tick, wide), within = (from, to) => from <= at.to + 1 && (to ?? Infinity) >= at.from;
  // Health as a tinted area.
  pen.fillStyle = side; pen.globalAlpha = 0.16;
  lane.health.forEach(([from, held, most], n) => {
    const to = lane.health[n + 1]?.[0] ?? (lane.to ?? fight.ticks) + 1;
    if (!within(from, to)) return;
    const tall = (HIGH - 3) * Math.max(0, held) / Math.max(1, most);
    pen.fillRect(x(from), top + HIGH - 1 - tall, x(to) - x(from), tall);
  });
  pen.globalAlpha = 1;
  // Gauges as dotted lines, each as high as it is full.
  pen.strokeStyle = side; pen.lineWidth = 1;
  lane.gauges.forEach((gauge, n) => {
    pen.beginPath(); pen.setLineDash([[1, 2], [4, 2], [1, 4]][n % 3]);
    gauge.held.forEach(([from, held, most], k) => {
      const to = gauge.held[k + 1]?.[0] ?? (lane.to ?? fight.ticks) + 1, y = top + HIGH - 1.5 - (HIGH - 4) * Math.max(0, held) / Math.max(1, most);
      if (k) pen.lineTo(x(from), y); else pen.moveTo(x(from), y);
      pen.lineTo(x(to), y);
    });
    pen.stroke();
  });
  pen.setLineDash([]);
  // Where it lies or is away.
  pen.strokeStyle = colour("quiet"); pen.lineWidth = 0.7;
  for (const [from, to] of lane.down) {
    if (!within(from, to)) continue;
    const [left, right] = [Math.max(0, x(from)), Math.min(wide, x(to ?? (lane.to ?? fight.ticks) + 1))];
    pen.save(); pen.beginPath(); pen.rect(left, top + 8, right - left, HIGH - 10); pen.clip(); pen.beginPath();
    for (let u = left - 12; u < right; u += 5) { pen.moveTo(u, top + HIGH); pen.lineTo(u + 12, top + 8); }
    pen.stroke(); pen.restore();
  }
  for (const swung of lane.swings) {
    const end = (swung.to ?? fight.ticks) + 1;
    if (!within(swung.from, end)) continue;
    const [left, right] = [x(swung.from), x(end)], isChosen = at.chosen?.kind === "swing" && at.chosen.of === swung.swing;
    pen.fillStyle = side;
    for (const [from, to] of swung.windows) pen.fillRect(x(from), top + 2, Math.max(1, x((to ?? fight.ticks) + 1) - x(from)), 6);
    pen.strokeStyle = isChosen ? colour("ink") : side; pen.lineWidth = isChosen ? 2 : 1; pen.strokeRect(left + 0.5, top + 2, Math.max(1, right - left - 1), 6);
  }
  const statuses = lane.statuses.filter((one) => within(one.from, one.to));
  statuses.forEach((one, n) => { pen.fillStyle = colour("quiet"); pen.fillRect(x(one.from), top + HIGH - 3 - 3 * (n % 2), Math.max(1, x((one.to ?? fight.ticks) + 1) - x(one.from)), 1.6); });
  const marks = lane.marks.filter((mark) => mark.tick >= at.from && mark.tick <= at.to + 1), crowded = marks.length > wide / 6;
  const rank = { refused: 0, struck: 1, damaged: 2 };
  let busy = -Infinity;
  for (const mark of [...marks].sort((one, other) => (rank[one.sort] ?? 3) - (rank[other.sort] ?? 3) || one.tick - other.tick)) {
    const u = x(mark.tick), v = top + (mark.sort === "struck" || mark.sort === "not-started" ? 5 : 13);
    if (crowded && (rank[mark.sort] ?? 3) < 3) { pen.fillStyle = mark.sort === "refused" ? colour("quiet") : side; pen.fillRect(u, mark.sort === "struck" ? top + 2 : top + 10, 1, mark.sort === "refused" ? 3 : 7); continue; }
    glyph(pen, mark.sort, u, v, side);
  }
  if (crowded) return;
  pen.font = '9px "DejaVu Sans", Verdana, sans-serif'; pen.fillStyle = colour("ink");
  const taken = marks.filter((mark) => mark.sort !== "struck" && mark.sort !== "not-started").map((mark) => [x(mark.tick) - 5, x(mark.tick) + 5]);
  const write = (text, u) => {
    const right = u + pen.measureText(text).width;
    if (right > wide || taken.some(([from, to]) => u < to && from < right)) return;
    taken.push([u, right + 3]); pen.fillText(text, u, top + 17);
  };
  for (const mark of marks) if (["damaged", "healed", "died"].includes(mark.sort)) write(mark.sort === "died" ? "died" : mark.text, x(mark.tick) + 6);
  for (const swung of lane.swings) if (within(swung.from, swung.to) && x(swung.from) >= 0) write(swung.attack, x(swung.from) + 1);
  for (const one of statuses) if (x(one.from) >= 0) write(one.status, x(one.from) + 1);
};
/// Several together: how many stand, how much damage they take, who dies.
const drawGroup = (pen, { lanes, sums }, top, wide) => {
  const side = sideColour(lanes[0].side), x = (tick) => xOf(tick, wide), floor = top + HIGH - 1;
  let stand = 0;
  pen.fillStyle = side; pen.globalAlpha = 0.16;
  sums.changes.forEach(([tick, by], n) => {
    stand += by;
    const to = sums.changes[n + 1]?.[0] ?? fight.ticks + 1, tall = (HIGH - 3) * stand / lanes.length;
    if (to > at.from && tick <= at.to + 1) pen.fillRect(x(tick), floor - tall, x(to) - x(tick), tall);
  });
  pen.globalAlpha = 1;
  const columns = new Float64Array(Math.max(1, Math.ceil(wide / 2)));
  for (const [tick, amount] of sums.damage) { const place = Math.floor(x(tick) / 2); if (place >= 0 && place < columns.length) columns[place] += amount; }
  const most = Math.max(1, ...columns);
  columns.forEach((sum, n) => { if (sum) { const tall = 2 + (HIGH - 8) * Math.sqrt(sum / most); pen.fillRect(n * 2, floor - tall, 1.6, tall); } });
  let last = -Infinity;
  for (const tick of sums.deaths) { const u = x(tick); if (u >= -4 && u <= wide + 4 && u - last > 3) { glyph(pen, "died", u, top + 5, side); last = u; } }
};
const drawLanes = () => {
  const { pen, wide, high } = begun(lanesCanvas), first = labels.scrollTop;
  if (!wide) return;
  // Times along the top of the lanes.
  const step = stepOf(at.to - at.from, wide);
  pen.font = '9px "DejaVu Sans", Verdana, sans-serif';
  for (let time = Math.ceil(at.from / fight.rate / step) * step; time <= at.to / fight.rate; time += step) {
    const u = xOf(time * fight.rate + 1, wide);
    pen.fillStyle = colour("rule"); pen.fillRect(u, 0, 1, high);
  }
  const isWhole = at.from <= lower() && at.to >= upper();
  rows.forEach((row, n) => {
    const top = n * HIGH - first;
    if (top < -HIGH || top > high) return;
    const lit = row.lane && (row.lane.name === chosenName() || (at.chosen?.kind === "line" && isAbout(fight.lines[at.chosen.of], row.lane.name)));
    if (lit) { pen.fillStyle = colour("rule"); pen.globalAlpha = 0.6; pen.fillRect(0, top, wide, HIGH); pen.globalAlpha = 1; }
    pen.fillStyle = colour("rule"); pen.fillRect(0, top + HIGH - 1, wide, 1);
    if (row.lane) drawLane(pen, row.lane, top, wide); else drawGroup(pen, row, top, wide);
  });
  // The overview has the times of the whole; those of a part stand below its lanes.
  pen.font = '9px "DejaVu Sans", Verdana, sans-serif'; pen.lineWidth = 3; pen.strokeStyle = colour("paper"); pen.fillStyle = colour("quiet");
  if (!isWhole) for (let time = Math.ceil(at.from / fight.rate / step) * step; time <= at.to / fight.rate; time += step) {
    const u = xOf(time * fight.rate + 1, wide) + 3, text = `${+time.toFixed(2)} s`;
    if (u > 0 && u + pen.measureText(text).width < wide) { pen.strokeText(text, u, high - 4); pen.fillText(text, u, high - 4); }
  }
};
const drawOverview = () => {
  const { pen, wide, high } = begun(overview);
  if (!wide) return;
  const all = upper() - lower(), x = (tick) => (tick - 1 - lower()) / all * wide;
  fight.sums ??= sumsOf(fight.lanes);
  const columns = new Float64Array(Math.ceil(wide / 2));
  for (const [tick, amount] of fight.sums.damage) columns[Math.min(columns.length - 1, Math.floor(x(tick) / 2))] += amount;
  const most = Math.max(1, ...columns);
  pen.fillStyle = colour("quiet");
  columns.forEach((sum, n) => { if (sum) { const tall = 1 + 12 * Math.sqrt(sum / most); pen.fillRect(n * 2, high - tall, 1.6, tall); } });
  let last = -Infinity;
  for (const tick of fight.sums.deaths) if (x(tick) - last > 3) { pen.fillStyle = colour("ink"); last = x(tick); pen.fillRect(last - 0.5, 12, 1.5, high - 12); }
  pen.font = '9px "DejaVu Sans", Verdana, sans-serif'; pen.fillStyle = colour("quiet");
  const step = stepOf(all, wide);
  for (let time = Math.ceil(lower() / fight.rate / step) * step; time <= upper() / fight.rate; time += step) {
    const u = x(time * fight.rate + 1), text = `${+time.toFixed(2)} s`;
    pen.fillRect(u, 0, 1, 4); if (u + 3 + pen.measureText(text).width < wide) pen.fillText(text, u + 3, 9);
  }
  const [left, right] = [x(at.from + 1), x(at.to + 1)];
  if (left > 0 || right < wide) { pen.fillStyle = colour("side0"); pen.globalAlpha = 0.22; pen.fillRect(left, 0, right - left, high); pen.globalAlpha = 1; pen.strokeStyle = colour("side0"); pen.strokeRect(left + 0.5, 0.5, right - left - 1, high - 1); }
  const now = x(at.tick); pen.fillStyle = colour("ink"); pen.fillRect(now - 0.5, 0, 1.5, high);
};
const drawCursor = () => {
  const wide = lanesCanvas.clientWidth, u = xOf(at.tick, wide);
  byId("cursor").hidden = u < 0 || u > wide;
  byId("cursor").style.left = `${132 + u}px`;
};
// A press on the lanes moves the cursor, and chooses what is there; it can be dragged. The wheel looks closer.
const tickAt = (event) => at.from + event.offsetX / lanesCanvas.clientWidth * (at.to - at.from) + 1;
const pickAt = (event) => {
  const row = rows[Math.floor((event.offsetY + labels.scrollTop) / HIGH)], wide = lanesCanvas.clientWidth;
  if (!row?.lane) return null;
  const { lane } = row, y = (event.offsetY + labels.scrollTop) % HIGH, far = (mark) => Math.abs(xOf(mark.tick, wide) - event.offsetX);
  const mark = lane.marks.filter((one) => far(one) < 6).sort((one, other) => (one.sort === "refused") - (other.sort === "refused") || far(one) - far(other))[0];
  if (mark && (y > 8 || mark.sort === "struck")) {
    const sign = { struck: "*", damaged: "*", refused: "o", died: "X" }[mark.sort];
    const there = linesAt(mark.tick).filter((n) => isAbout(fight.lines[n], lane.name) && markOf(fight.lines[n]) !== ".");
    const found = there.find((n) => markOf(fight.lines[n]) === sign) ?? there[0];
    if (found !== undefined) return { kind: "line", of: found };
  }
  const tick = tickAt(event), swung = lane.swings.findLast((one) => one.from <= tick && tick <= (one.to ?? fight.ticks) + 1);
  return swung && y < 10 ? { kind: "swing", of: swung.swing } : { kind: "who", of: lane.name };
};
lanesCanvas.addEventListener("pointerdown", (event) => {
  lanesCanvas.setPointerCapture(event.pointerId);
  const picked = pickAt(event);
  go(picked?.kind === "line" ? fight.lines[picked.of][TICK] : tickAt(event));
  if (picked) choose(picked, { go: false });
});
lanesCanvas.addEventListener("pointermove", (event) => { if (event.buttons & 1) go(tickAt(event)); });
lanesCanvas.addEventListener("wheel", (event) => {
  event.preventDefault();
  if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) { const by = (event.deltaX || event.deltaY) / 600 * (at.to - at.from); return range(at.from + by, at.to + by); }
  zoom(Math.exp(event.deltaY / 300), tickAt(event));
}, { passive: false });
labels.addEventListener("scroll", drawLanes);
// A press on the overview takes hold of the range; beside it a new one is drawn.
let held = null;
const wholeTick = (event) => lower() + event.offsetX / overview.clientWidth * (upper() - lower());
overview.addEventListener("pointerdown", (event) => {
  overview.setPointerCapture(event.pointerId);
  const tick = wholeTick(event), isWhole = at.from <= lower() && at.to >= upper();
  held = !isWhole && tick > at.from && tick < at.to ? { by: tick - at.from } : { start: tick };
});
overview.addEventListener("pointermove", (event) => {
  if (!held || !(event.buttons & 1)) return;
  const tick = wholeTick(event);
  if (held.by !== undefined) return range(tick - held.by, tick - held.by + at.to - at.from);
  if (Math.abs(tick - held.start) > (upper() - lower()) / 200) { held.drawn = true; range(Math.min(tick, held.start), Math.max(tick, held.start)); }
});
overview.addEventListener("pointerup", (event) => { if (held && held.by === undefined && !held.drawn) go(wholeTick(event) + 1); held = null; });
overview.addEventListener("dblclick", () => range(lower(), upper()));
byId("whole").addEventListener("click", () => range(lower(), upper()));
parts.push({
  data() { layRows(); labelRows(); },
  size() { drawLanes(); drawOverview(); drawCursor(); },
  range() { drawLanes(); drawOverview(); },
  moment() { drawOverview(); drawCursor(); },
  choice() {
    // A lane that is chosen is there to be seen.
    const name = chosenName(), lane = name && fight.laneOf.get(name);
    const group = lane && rows.find((row) => row.group && row.lanes.includes(lane));
    if (group && !opened.has(group.group)) { opened.add(group.group); layRows(); labelRows(); }
    const place = rows.findIndex((row) => row.lane && row.lane === lane);
    if (place >= 0 && (place * HIGH < labels.scrollTop || (place + 1) * HIGH > labels.scrollTop + labels.clientHeight)) labels.scrollTop = place * HIGH - labels.clientHeight / 2;
    pressRows(); drawLanes();
  },
});
