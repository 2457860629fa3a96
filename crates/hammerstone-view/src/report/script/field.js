// The field: where everything is at the cursor, seen from above, from the side, or along the way from an attacker to its target; or the wiring.
const style = { of: null };
/// A colour of the page, read once for each scheme.
const colour = (name) => {
  style.of ??= getComputedStyle(document.documentElement);
  return style[name] ??= style.of.getPropertyValue(`--${name}`).trim();
};
const sideColour = (side) => side == null || side < 0 ? colour("quiet") : colour(`side${side % 6}`);
const sideLetter = (side) => ["■", "▲", "◆", "✚", "□", "△", "◇", "+"][side % 8];
matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => { for (const key in style) delete style[key]; style.of = null; if (fight) ["size", "moment"].forEach(show); });
/// A canvas in the pixels of the screen, ready to be drawn on; its size is in those of the page.
const begun = (canvas) => {
  const { clientWidth: wide, clientHeight: high } = canvas, ratio = devicePixelRatio || 1;
  if (canvas.width !== Math.round(wide * ratio) || canvas.height !== Math.round(high * ratio)) { canvas.width = Math.round(wide * ratio); canvas.height = Math.round(high * ratio); }
  const pen = canvas.getContext("2d");
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.clearRect(0, 0, wide, high);
  pen.font = '11px "DejaVu Sans", Verdana, sans-serif';
  return { pen, wide, high };
};

const map = byId("map"), moved = { scale: 1, x: 0, y: 0 };
const dot = (one, other) => one[0] * other[0] + one[1] * other[1] + one[2] * other[2];
/// What lies across and up the picture, as two directions of length 1.
const seenAs = (view) => {
  const axis = (place, sign = 1) => [0, 1, 2].map((n) => n === place ? sign : 0);
  const upwards = { x: 0, y: 1, z: 2 }[fight.playback.up];
  const flat = [0, 1, 2].filter((place) => place !== upwards);
  if (view === "above") return { y: [axis(0), axis(2, -1)], z: [axis(0), axis(1)], x: [axis(1), axis(2)] }[fight.playback.up];
  if (view === "along") {
    const two = pair(), frame = frameAt(at.tick);
    const place = (name) => [...figuresIn(frame.n).values()].find((one) => fight.playback.names[one[0]][0] === name);
    const [own, other] = [two && place(two.attacker), two?.target && place(two.target)];
    if (own) {
      const way = other ? other[4].map((x, n) => x - own[4][n]) : [...own[5]];
      way[upwards] = 0;
      const long = Math.hypot(...way);
      if (long > 1) return [way.map((x) => x / long), axis(upwards)];
    }
  }
  // Across the longer side of the field.
  fight.longer ??= (() => {
    const [low, high] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]];
    for (const frame of fight.frames) for (const one of frame.changed) one[4]?.forEach((x, n) => { low[n] = Math.min(low[n], x); high[n] = Math.max(high[n], x); });
    return high[flat[1]] - low[flat[1]] > high[flat[0]] - low[flat[0]] ? flat[1] : flat[0];
  })();
  return [axis(fight.longer), axis(upwards)];
};
const corners = (solid, from = [0, 0, 0]) => {
  const place = (n) => from.map((x, i) => x + solid[n + i]);
  if (solid.length === 4) return [[place(0)], solid[3]];
  if (solid.length === 7) return [[place(0), place(3)], solid[6]];
  if (solid.length === 9) return [[place(0), place(3), place(6)], 0];
  const all = [];
  for (let n = 0; n < 8; n += 1) all.push(place(0).map((x, i) => x + [0, 1, 2].reduce((sum, axis) => sum + (n >> axis & 1 ? 1 : -1) * solid[3 + 3 * axis + i], 0)));
  return [all, 0];
};
const hull = (all) => {
  const sorted = [...all].sort((p, q) => p[0] - q[0] || p[1] - q[1]);
  const half = (list) => {
    const kept = [];
    for (const p of list) {
      while (kept.length > 1) {
        const [a, b] = kept.slice(-2);
        if ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0) break;
        kept.pop();
      }
      kept.push(p);
    }
    return kept.slice(0, -1);
  };
  return [...half(sorted), ...half(sorted.reverse())];
};
/// What must be seen: everyone that stands in the two seconds around the cursor; along an attack the two that it is about.
let fitted = { key: "", box: null };
const boxAt = (axes, only) => {
  const long = 2 * fight.rate, which = Math.floor((at.tick - 1) / long), key = [fight.title, which, at.view, only, axes].join("|");
  if (fitted.key === key && fitted.of === fight) return fitted.box;
  const box = [Infinity, Infinity, -Infinity, -Infinity];
  const widen = (solid, from) => {
    const [all, radius] = corners(solid, from);
    for (const place of all) {
      const [u, v] = [dot(axes[0], place), dot(axes[1], place)];
      box[0] = Math.min(box[0], u - radius); box[1] = Math.min(box[1], v - radius); box[2] = Math.max(box[2], u + radius); box[3] = Math.max(box[3], v + radius);
    }
  };
  const asked = (place) => !only || only.includes(fight.playback.names[place]?.[0]);
  for (const frame of fight.frames) {
    if (Math.floor((frame.tick - 1) / long) !== which) continue;
    for (const one of figuresIn(frame.n).values()) if ((one[1] || only) && asked(one[0])) { widen([0, 0, 0, 30], one[4]); one[6].forEach((part) => widen(part, one[4])); }
    for (const [owner, end] of frame.hitboxes) if (asked(owner)) widen(end);
  }
  fitted = { key, of: fight, box: box[0] < box[2] ? [box[0] - 40, box[1] - 40, box[2] + 40, box[3] + 40] : [-300, -300, 300, 300] };
  return fitted.box;
};
let drawn = null;
const drawField = () => {
  const wired = at.view === "wiring";
  map.hidden = wired; byId("wiring").hidden = !wired;
  if (wired) return drawWiring();
  const { pen, wide, high } = begun(map);
  if (!fight.frames.length || !wide) return;
  const frame = frameAt(at.tick), axes = seenAs(at.view), two = at.view === "along" ? pair() : null;
  const box = boxAt(axes, two && [two.attacker, two.target].filter(Boolean)), room = 14;
  const scale = Math.min((wide - 2 * room) / (box[2] - box[0]), (high - 2 * room) / (box[3] - box[1]), 2.4) * moved.scale;
  const middle = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
  const to = (place) => [wide / 2 + moved.x + (dot(axes[0], place) - middle[0]) * scale, high / 2 + moved.y - (dot(axes[1], place) - middle[1]) * scale];
  const outline = (solid, from) => {
    const [all, radius] = corners(solid, from), places = all.map(to), r = radius * scale;
    pen.beginPath();
    if (all.length > 2) return hull(places).forEach(([x, y], n) => n ? pen.lineTo(x, y) : pen.moveTo(x, y)), pen.closePath();
    const [a, b] = [places[0], places[places.length - 1]], turn = Math.atan2(b[1] - a[1], b[0] - a[0]);
    pen.arc(a[0], a[1], r, turn + Math.PI / 2, turn - Math.PI / 2); pen.arc(b[0], b[1], r, turn - Math.PI / 2, turn + Math.PI / 2); pen.closePath();
  };
  const paint = (fill, alpha, line, width = 1) => {
    if (fill) { pen.globalAlpha = alpha; pen.fillStyle = fill; pen.fill(); pen.globalAlpha = 1; }
    if (line) { pen.strokeStyle = line; pen.lineWidth = width; pen.stroke(); }
  };
  for (const solid of [...fight.playback.level, ...frame.obstacles]) {
    // One that is open has one number more.
    const open = [5, 8, 13].includes(solid.length);
    outline(open ? solid.slice(0, -1) : solid);
    pen.setLineDash(open ? [3, 3] : []); paint(open ? null : colour("rule"), 1, colour("quiet")); pen.setLineDash([]);
  }
  const name = (place) => fight.playback.names[place]?.[0], side = (place) => fight.playback.names[place]?.[1];
  const chosen = chosenName(), of = two ?? (at.chosen?.kind === "line" ? { attacker: nameOf(fight.lines[at.chosen.of][SUBJECT]), target: nameOf(fight.lines[at.chosen.of][OTHER]) } : null);
  const isLit = (who) => who === chosen || (of && (who === of.attacker || who === of.target));
  // The way of hitboxes over the ticks before, fainter with time.
  const before = fight.frames.indexOf(frame), dimmed = Boolean(two);
  for (let n = Math.max(0, before - 8); n < before; n += 1) {
    const older = fight.frames[n];
    if (frame.tick - older.tick > 10) continue;
    for (const [owner, end] of older.hitboxes) if (!dimmed || name(owner) === two.attacker) { outline(end); paint(sideColour(side(owner)), 0.05 + 0.1 * (n - before + 9) / 9, null); }
  }
  const bodies = [], figures = figuresIn(frame.n), crowd = figures.size > 24;
  // The way that those with tactics went in the last second and a half, and whom they turn to.
  const chose = (place) => !dimmed && (!crowd || isLit(name(place))) ? choiceAt(name(place), frame.tick) : null;
  const minded = [...figures.values()].filter(([place, stands]) => stands && chose(place));
  for (const [place, , , , where] of minded) {
    pen.beginPath(); pen.moveTo(...to(where));
    for (let n = before - 1; n >= 0 && frame.tick - fight.frames[n].tick <= 1.5 * fight.rate; n -= 1) {
      const then = fight.frames[n].changed.find((one) => one[0] === place);
      if (then?.[4]) pen.lineTo(...to(then[4]));
    }
    pen.globalAlpha = 0.5; paint(null, 0, sideColour(side(place)), 1.5); pen.globalAlpha = 1;
    const target = [...figures.values()].find((one) => name(one[0]) === chose(place).target);
    if (!target) continue;
    const [[x, y], [tx, ty]] = [to(where), to(target[4])], far = Math.hypot(tx - x, ty - y);
    if (far < 24) continue;
    pen.setLineDash([2, 4]); pen.beginPath(); pen.moveTo(x, y); pen.lineTo(tx - (tx - x) * 12 / far, ty - (ty - y) * 12 / far);
    pen.globalAlpha = 0.7; paint(null, 0, sideColour(side(place)), 1); pen.globalAlpha = 1; pen.setLineDash([]);
  }
  for (const [place, stands, health, most, where, facing, solids] of figures.values()) {
    const who = name(place), line = stands ? sideColour(side(place)) : colour("quiet");
    pen.setLineDash(stands ? [] : [3, 3]);
    const faint = dimmed && !isLit(who);
    for (const part of solids) { outline(part, where); pen.globalAlpha = faint ? 0.3 : 1; paint(null, 0, line, isLit(who) ? 2 : 1); paint(stands ? line : null, faint ? 0.06 : 0.22, null); }
    pen.setLineDash([]);
    const [x, y] = to(where);
    // Seen from the side, names stand above.
    let head = y;
    if (at.view !== "above") for (const part of solids) { const [all, radius] = corners(part, where); for (const one of all) head = Math.min(head, to(one)[1] - radius * scale); }
    if (!solids.length) { pen.beginPath(); pen.arc(x, y, 3, 0, 7); paint(line, 0.6, line); }
    if (stands) {
      // Where it looks.
      const [fx, fy] = to(where.map((v, n) => v + facing[n] * 0.55)), long = Math.hypot(fx - x, fy - y);
      if (long > 3) {
        const [ux, uy] = [(fx - x) / long, (fy - y) / long];
        pen.beginPath(); pen.moveTo(x, y); pen.lineTo(fx, fy); pen.moveTo(fx - 5 * ux + 3 * uy, fy - 5 * uy - 3 * ux); pen.lineTo(fx, fy); pen.lineTo(fx - 5 * ux - 3 * uy, fy - 5 * uy + 3 * ux);
        paint(null, 0, colour("ink"), 1.2);
      }
    }
    bodies.push({ who, place, x, y, head, stands, health, most });
  }
  for (const [owner, end, start] of frame.hitboxes) {
    const faint = dimmed && name(owner) !== two.attacker;
    if (start && !faint) { outline(start); paint(sideColour(side(owner)), 0.16, null); }
    outline(end); paint(sideColour(side(owner)), faint ? 0.1 : 0.55, faint ? null : colour("ink"));
  }
  const touches = frame.touches.map(([x, y, z, came]) => ({ at: to([x, y, z]), came }));
  for (const { at: [x, y], came } of touches) {
    pen.beginPath();
    if (came === 1) { [[0, -8], [2, -2], [8, 0], [2, 2], [0, 8], [-2, 2], [-8, 0], [-2, -2]].forEach(([dx, dy], n) => n ? pen.lineTo(x + dx, y + dy) : pen.moveTo(x + dx, y + dy)); pen.closePath(); paint(colour("ink"), 1, colour("paper")); }
    else { pen.arc(x, y, 3, 0, 7); paint(colour("paper"), 1, colour("ink")); }
  }
  // Health bars, then names and statuses where there is room; the selection first.
  const taken = bodies.map(({ x, y }) => [x - 8, y - 5, x + 8, y + 5]);
  const free = (area) => area[0] >= 0 && area[2] <= wide && area[1] >= 0 && area[3] <= high - 14 && !taken.some((o) => area[0] < o[2] && o[0] < area[2] && area[1] < o[3] && o[1] < area[3]);
  for (const { x, y, stands, health, most, place } of bodies) {
    if (!stands || crowd || at.view !== "above") continue;
    pen.fillStyle = colour("paper"); pen.fillRect(x - 14, y + 6, 28, 4);
    pen.fillStyle = sideColour(side(place)); pen.fillRect(x - 14, y + 6, 28 * Math.max(0, health) / Math.max(1, most), 4);
    pen.strokeStyle = sideColour(side(place)); pen.lineWidth = 0.6; pen.strokeRect(x - 14, y + 6, 28, 4);
    // Gauges beneath it, thinner.
    const gauges = fight.laneOf.get(name(place))?.gauges.slice(0, 3) ?? [];
    gauges.forEach((gauge, n) => {
      const [, held, full] = gauge.held.findLast(([from]) => from <= at.tick) ?? gauge.held[0], under = y + 11 + 3 * n;
      pen.fillStyle = colour("paper"); pen.fillRect(x - 14, under, 28, 2);
      pen.fillStyle = colour("ink"); pen.globalAlpha = 0.6; pen.fillRect(x - 14, under, 28 * Math.max(0, held) / Math.max(1, full), 2); pen.globalAlpha = 1;
    });
    taken.push([x - 14, y + 6, x + 14, y + 10 + 3 * gauges.length]);
  }
  pen.lineJoin = "round";
  for (const { who, x, y: foot, head, stands } of [...bodies].sort((one, other) => isLit(other.who) - isLit(one.who) || other.stands - one.stands)) {
    if (dimmed && !isLit(who)) continue;
    const statuses = stands && !crowd ? stateOf(who, at.tick).filter(([key]) => key.startsWith("status ")).map(([key]) => key.slice(7)) : [];
    const mind = stands && !crowd ? choiceAt(who, frame.tick) : null;
    const rows = [who, ...(mind ? [mind.choice] : []), ...(statuses.length ? [statuses.join(", ")] : [])];
    const long = Math.max(...rows.map((row) => pen.measureText(row).width)), tall = 12 * rows.length;
    const y = at.view === "above" ? foot : head, around = at.view === "above" ? [[16, -6], [-16 - long, -6], [-long / 2, -14 - tall], [-long / 2, 14], [18, 12], [18, -10 - tall]]
      : [0, 1, 2, 3].map((row) => [-long / 2, -4 - tall - 13 * row]);
    for (const [dx, dy] of around) {
      const area = [x + dx - 1, y + dy - 1, x + dx + long + 1, y + dy + tall];
      if (!free(area)) continue;
      taken.push(area);
      rows.forEach((row, n) => {
        pen.lineWidth = 3; pen.strokeStyle = colour("paper"); pen.strokeText(row, area[0] + 1, area[1] + 11 + 12 * n);
        pen.fillStyle = n || !stands ? colour("quiet") : colour("ink"); pen.fillText(row, area[0] + 1, area[1] + 11 + 12 * n);
      });
      break;
    }
  }
  // A metre, or ten where one is small.
  const metres = [1, 2, 5, 10, 20, 50, 100].find((m) => m * 100 * scale > 40) ?? 100, long = metres * 100 * scale;
  pen.strokeStyle = colour("ink"); pen.lineWidth = 1; pen.beginPath(); pen.moveTo(wide - 12 - long, high - 10); pen.lineTo(wide - 12 - long, high - 6); pen.lineTo(wide - 12, high - 6); pen.lineTo(wide - 12, high - 10); pen.stroke();
  pen.fillStyle = colour("quiet"); const words = `${metres} m`; pen.fillText(words, wide - 12 - long - pen.measureText(words).width - 6, high - 5);
  const late = at.tick - frame.tick, seen = { above: "from above", side: "from the side", along: two ? `${two.attacker}${two.target ? ` → ${two.target}` : ""}` : "no swing yet: from the side" }[at.view];
  byId("field-words").textContent = [seen, fight.playback.step > 1 ? `every ${fight.playback.step}th tick is kept${late ? `, this is ${timeText(frame.tick)}` : ""}` : "", crowd ? "a crowd: statuses and bars are in the inspector" : ""].filter(Boolean).join(" · ");
  drawn = { bodies, touches };
};
const drawWiring = () => {
  byId("field-words").textContent = "publishers → topic → listeners, with how often in this fight";
  const pane = byId("wiring");
  if (pane.of === fight) return;
  pane.of = fight;
  const { topics, loops, unused } = fight.wiring;
  const row = ({ topic, publishers, published, listeners, mark }) => make("tr", {}, make("td", { textContent: publishers.join(", ") || "–" }),
    make("td", {}, toTopic(topic)), make("td", { className: "number", textContent: published }),
    make("td", {}, listeners.map((ear, n) => [n ? ", " : "", ear.sort === "rule" ? toRule(ear.name) : ear.name, ` ${ear.heard}`, ear.unfit ? ` (${ear.unfit} did not fit)` : "", ear.paused ? ` (${ear.paused} while paused)` : ""]).flat(), listeners.length ? "" : "–"),
    make("td", { className: "quiet", textContent: { silent: "never published", deaf: "unheard" }[mark] ?? mark ?? "" }));
  pane.replaceChildren(
    ...loops.map((loop) => make("p", {}, make("b", { textContent: loop.rules.length > 1 ? "rules set each other off: " : "a rule sets itself off: " }), loop.rules.map((name, n) => [n ? " → " : "", toRule(name)]).flat(), loop.within_a_tick ? ", within a tick" : "")),
    make("table", {}, make("tr", {}, ["published by", "topic", "times", "heard by, times", ""].map((text, n) => make("th", { textContent: text, className: n === 2 ? "number" : "" }))), [...topics].sort((one, other) => (other.listeners.length > 0) - (one.listeners.length > 0)).map(row)),
    make("p", { className: "quiet", textContent: unused.length ? `never published, and no one listens: ${unused.join(", ")}` : "" }));
};
// Click a body to choose it, a touch to choose its event; drag and turn the wheel to look closer.
let pressed = null;
map.addEventListener("pointerdown", (event) => { pressed = { x: event.offsetX, y: event.offsetY, dragged: false }; map.setPointerCapture(event.pointerId); });
map.addEventListener("pointermove", (event) => {
  if (!pressed || !(event.buttons & 1)) return;
  const [dx, dy] = [event.offsetX - pressed.x, event.offsetY - pressed.y];
  if (!pressed.dragged && Math.hypot(dx, dy) < 5) return;
  moved.x += dx; moved.y += dy; pressed = { x: event.offsetX, y: event.offsetY, dragged: true };
  drawField();
});
map.addEventListener("pointerup", (event) => {
  const was = pressed; pressed = null;
  if (!was || was.dragged || !drawn) return;
  const [x, y] = [event.offsetX, event.offsetY];
  const far = ([u, v]) => Math.hypot(u - x, v - y);
  const touch = drawn.touches.filter((one) => far(one.at) < 9).sort((one, other) => far(one.at) - far(other.at))[0];
  if (touch) {
    const line = linesAt(frameAt(at.tick).tick).find((n) => markOf(fight.lines[n]) === (touch.came === 1 ? "*" : touch.came === 2 ? "o" : "."));
    if (line !== undefined) return choose({ kind: "line", of: line });
  }
  const body = drawn.bodies.filter((one) => far([one.x, one.y]) < 24).sort((one, other) => far([one.x, one.y]) - far([other.x, other.y]))[0];
  choose(body ? { kind: "who", of: body.who } : null);
});
map.addEventListener("wheel", (event) => {
  event.preventDefault();
  const factor = Math.exp(-event.deltaY / 400), { clientWidth, clientHeight } = map;
  const [x, y] = [event.offsetX - clientWidth / 2, event.offsetY - clientHeight / 2];
  const next = Math.max(1, Math.min(30, moved.scale * factor)), by = next / moved.scale;
  Object.assign(moved, { scale: next, x: x - (x - moved.x) * by, y: y - (y - moved.y) * by });
  if (next === 1) Object.assign(moved, { x: 0, y: 0 });
  drawField();
}, { passive: false });
map.addEventListener("dblclick", () => { Object.assign(moved, { scale: 1, x: 0, y: 0 }); drawField(); });
parts.push({ data: () => { drawn = null; }, moment: drawField, choice: drawField, size: drawField });
