// Moves a cursor through the fight: on the timeline, on the stage, in the feed. Without it the page has everything but the movement.
"use strict";
(() => {
  const playback = JSON.parse(document.getElementById("playback").textContent);
  const byId = (id) => document.getElementById(id);
  const svg = (name, attributes, parent) => {
    const node = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const key in attributes) node.setAttribute(key, attributes[key]);
    if (parent) parent.append(node);
    return node;
  };
  document.documentElement.classList.add("scripted");

  // Frames hold what changed; from here on each holds all.
  const frames = [];
  let figures = new Map();
  let obstacles = [];
  for (const [tick, changed, hitboxes, touches, moved] of playback.frames) {
    figures = new Map(figures);
    for (const one of changed) {
      if (one.length === 1) figures.delete(one[0]);
      else figures.set(one[0], one.length > 5 ? one : [...one, figures.get(one[0])[5]]);
    }
    obstacles = moved || obstacles;
    frames.push({ tick, figures, hitboxes, touches, obstacles });
  }
  const frameAt = (tick) => {
    const place = Math.min(frames.length - 1, Math.floor((tick - 1) / playback.step));
    return frames[Math.max(0, place)];
  };

  // What lies across and up the picture, from above and from the side.
  const views = { y: [[0, 1, 2, -1], [0, 1, 1, 1]], z: [[0, 1, 1, 1], [0, 1, 2, 1]], x: [[1, 1, 2, 1], [1, 1, 0, 1]] }[playback.up];
  const flat = ([a, s, b, t], at) => [s * at[a], t * at[b]];
  const points = (solid, from = [0, 0, 0]) => {
    const at = (place) => from.map((x, i) => x + solid[place + i]);
    if (solid.length === 4) return [[at(0)], solid[3]];
    if (solid.length === 7) return [[at(0), at(3)], solid[6]];
    if (solid.length === 9) return [[at(0), at(3), at(6)], 0];
    const corners = [];
    for (let n = 0; n < 8; n += 1) {
      corners.push(at(0).map((x, i) => x + [0, 1, 2].reduce((sum, axis) =>
        sum + (n >> axis & 1 ? 1 : -1) * solid[3 + 3 * axis + i], 0)));
    }
    return [corners, 0];
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

  // One view above the other, at one scale that holds whoever stands in these two seconds.
  const wide = 1280, high = 620, head = 22;
  const stage = byId("stage");
  stage.setAttribute("viewBox", `0 0 ${wide} ${high}`);
  const widen = (boxes, solid, from) => views.forEach((view, n) => {
    const [all, radius] = points(solid, from), box = boxes[n];
    for (const at of all) {
      const [u, v] = flat(view, at);
      box[0] = Math.min(box[0], u - radius); box[1] = Math.min(box[1], v - radius);
      box[2] = Math.max(box[2], u + radius); box[3] = Math.max(box[3], v + radius);
    }
  });
  const stretch = 2 * playback.rate;
  const known = new Map();
  const boundsAt = (tick) => {
    const which = Math.floor((tick - 1) / stretch);
    if (!known.has(which)) {
      const boxes = views.map(() => [Infinity, Infinity, -Infinity, -Infinity]);
      for (const frame of frames) {
        if (Math.floor((frame.tick - 1) / stretch) !== which) continue;
        for (const one of frame.figures.values()) if (one[1]) one[5].forEach((part) => widen(boxes, part, one[4]));
        for (const [, end] of frame.hitboxes) widen(boxes, end);
      }
      known.set(which, boxes.map((box) => box[0] < box[2] ? [box[0] - 60, box[1] - 60, box[2] + 60, box[3] + 60] : [-300, -300, 300, 300]));
    }
    return known.get(which);
  };
  let scale = 1;
  const panels = views.map((view, n) => ({
    view, label: svg("text", { x: 10, "font-size": 11, fill: "var(--quiet)" }, stage),
    frame: svg("rect", { x: 0.5, width: wide - 1, fill: "none", stroke: "var(--rule)" }, stage),
    clip: svg("rect", { x: 0, width: wide }, svg("clipPath", { id: `panel${n}` }, stage)),
    group: svg("g", { "clip-path": `url(#panel${n})` }, stage),
  }));
  panels[0].label.textContent = "from above";
  panels[1].label.textContent = "from the side";
  const bar = svg("path", { stroke: "var(--ink)", fill: "none" }, stage);
  const metre = svg("text", { "font-size": 11, fill: "var(--ink)" }, stage);
  const fit = (tick) => {
    const boxes = boundsAt(tick);
    const [w, h] = [Math.max(...boxes.map((box) => box[2] - box[0])), boxes.map((box) => box[3] - box[1])];
    scale = Math.min(wide / w, (high - 2 * head) / (h[0] + h[1]), 1.6);
    const rest = (high - 2 * head) - (h[0] + h[1]) * scale;
    let top = 0;
    panels.forEach((panel, n) => {
      const box = boxes[n], tall = h[n] * scale + rest / 2;
      const [midU, midV] = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
      const middle = top + head + tall / 2;
      panel.to = (at) => { const [u, v] = flat(panel.view, at); return [wide / 2 + (u - midU) * scale, middle - (v - midV) * scale]; };
      panel.label.setAttribute("y", top + 16);
      for (const node of [panel.frame, panel.clip]) { node.setAttribute("y", top + 0.5); node.setAttribute("height", tall + head); }
      top += tall + head;
      panel.bottom = top - 2;
    });
    bar.setAttribute("d", `M${wide - 20} ${high - 12}v4h${-100 * scale}v-4`);
    metre.textContent = "1 m";
    metre.setAttribute("x", wide - 22 - 100 * scale - 26); metre.setAttribute("y", high - 6);
  };
  const draw = (solid, to, parent, attributes, from) => {
    const [all, radius] = points(solid, from);
    if (all.length === 8 || all.length === 3) {
      return svg("polygon", { points: hull(all.map(to)).map((p) => p.map((x) => x.toFixed(1)).join(",")).join(" "), ...attributes }, parent);
    }
    const [a, b] = [to(all[0]), to(all[all.length - 1])].map((p) => p.map((x) => +x.toFixed(1)));
    const r = +(radius * scale).toFixed(1);
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]], length = Math.hypot(dx, dy);
    if (length < 0.2) return svg("circle", { cx: a[0], cy: a[1], r, ...attributes }, parent);
    const [nx, ny] = [-dy / length * r, dx / length * r];
    const d = `M${a[0] + nx} ${a[1] + ny}L${b[0] + nx} ${b[1] + ny}A${r} ${r} 0 0 0 ${b[0] - nx} ${b[1] - ny}L${a[0] - nx} ${a[1] - ny}A${r} ${r} 0 0 0 ${a[0] + nx} ${a[1] + ny}z`;
    return svg("path", { d, ...attributes }, parent);
  };
  const colour = (side) => side < 0 ? "var(--quiet)" : `var(--side${side % 6})`;
  const show = (frame) => {
    fit(frame.tick);
    for (const { view, to, group, bottom } of panels) {
      group.replaceChildren();
      for (const solid of [...playback.level, ...frame.obstacles]) draw(solid, to, group, { fill: "var(--rule)", stroke: "var(--quiet)" });
      const names = [];
      // Bodies come first, so that names are written over none that follows.
      const taken = [...frame.figures.values()].map((one) => to(one[4])).map(([x, y]) => [x - 12, y - 6, x + 12, y + 6]);
      for (const [place, stands, health, most, at, parts] of frame.figures.values()) {
        const [name, side] = playback.names[place];
        const look = stands ? { fill: colour(side), "fill-opacity": 0.25, stroke: colour(side) }
          : { fill: "none", stroke: "var(--quiet)", "stroke-dasharray": "3 3" };
        for (const part of parts) draw(part, to, group, look, at);
        const [x, y] = to(at);
        if (stands && view === views[0]) {
          svg("rect", { x: x - 14, y: y + 5, width: 28, height: 3.5, fill: "var(--paper)", stroke: colour(side), "stroke-width": 0.6 }, group);
          svg("rect", { x: x - 14, y: y + 5, width: 28 * Math.max(0, health) / Math.max(1, most), height: 3.5, fill: colour(side) }, group);
        }
        names.push([name, x, y]);
      }
      for (const [side, end, start] of frame.hitboxes) {
        if (start) draw(start, to, group, { fill: colour(side), "fill-opacity": 0.18 });
        draw(end, to, group, { fill: colour(side), "fill-opacity": 0.6, stroke: "var(--ink)" });
      }
      for (const [x, y, z, came] of frame.touches) {
        const [u, v] = to([x, y, z]);
        if (came === 1) svg("path", { d: `M${u} ${v - 8}l2 6l6 2l-6 2l-2 6l-2 -6l-6 -2l6 -2z`, fill: "var(--ink)", stroke: "var(--paper)" }, group);
        else svg("circle", { cx: u, cy: v, r: 3, fill: "var(--paper)", stroke: "var(--ink)" }, group);
      }
      // Names come last, so that nothing is drawn over them.
      for (const [name, x, y] of names) {
        // A name stands beside its bearer where no other does, or not at all.
        const long = name.length * 7;
        const around = [[16, 2], [-16 - long, 2], [-long / 2, -16], [-long / 2, 22], [16, 16], [16, -12]];
        for (const [dx, dy] of around) {
          const box = [x + dx - 1, y + dy - 10, x + dx + long + 1, y + dy + 3];
          if (box[0] < 0 || box[2] > wide || box[3] > bottom || taken.some((o) => box[0] < o[2] && o[0] < box[2] && box[1] < o[3] && o[1] < box[3])) continue;
          taken.push(box);
          svg("text", { x: box[0] + 1, y: y + dy, "font-size": 11, fill: "var(--ink)", stroke: "var(--paper)", "stroke-width": 3, "paint-order": "stroke" }, group)
            .textContent = name;
          break;
        }
      }
    }
  };

  // How everything stands: from each tick on what changed; a row for each combatant, and one for the encounter.
  const state = playback.state, table = byId("state"), rowsOf = new Map();
  state.keys.forEach(([of], place) => rowsOf.set(of, [...(rowsOf.get(of) ?? []), place]));
  const sideOf = new Map(playback.names), mostRows = 60;
  let values = [], next = 0, told = 0;
  const stand = (tick) => {
    if (tick < told) { values = []; next = 0; }
    told = tick;
    for (; next < state.changes.length && state.changes[next][0] <= tick; next += 1) {
      for (const [place, value] of state.changes[next][1]) values[place] = value;
    }
    // What changed in just this tick stands out.
    const [from, changed] = next ? state.changes[next - 1] : [0, []];
    const fresh = new Set(from === tick ? changed.map(([place]) => place) : []);
    table.replaceChildren();
    let shown = 0;
    for (const [of, places] of rowsOf) {
      const items = places.filter((place) => values[place] != null).map((place) => {
        const what = state.keys[place][1], value = values[place];
        const plain = { life: value === "standing" ? null : value, team: null }[what];
        const text = plain !== undefined ? plain : what.startsWith("status ") ? what.slice(7) + (value ? ` (${value})` : "")
          : what.startsWith("flag ") ? (value === "up" ? what.slice(5) + " up" : null) : `${what} ${value}`;
        return [text, fresh.has(place)];
      }).filter(([text]) => text !== null);
      if (!items.length) continue;
      shown += 1;
      if (shown > mostRows) continue;
      const row = table.insertRow(), head = row.insertCell(), cell = row.insertCell();
      if (sideOf.has(of)) {
        const mark = document.createElement("span");
        mark.className = "side"; mark.style.background = colour(sideOf.get(of));
        head.append(mark);
      }
      head.append(of ?? "the encounter");
      items.forEach(([text, isNew], n) => {
        const word = document.createElement("span");
        word.textContent = text;
        if (isNew) word.className = "new";
        cell.append(n ? " · " : "", word);
      });
    }
    if (shown > mostRows) table.insertRow().insertCell().textContent = `and ${shown - mostRows} more`;
    if (state.grain > 1) table.insertRow().insertCell().textContent = `told in steps of ${state.grain} ticks, since so much changes in this fight`;
  };

  // The cursor.
  const slider = byId("tick"), line = byId("timeline").querySelector("svg");
  const height = line.viewBox.baseVal.height;
  const cursor = svg("line", { y1: 50, y2: height - 70, stroke: "var(--ink)", "stroke-width": 1.5 }, line);
  const rows = [...byId("feed-list").children];
  const ticks = rows.map((row) => +row.dataset.tick);
  const rowsByTick = new Map();
  rows.forEach((row, n) => rowsByTick.has(ticks[n]) ? rowsByTick.get(ticks[n]).push(row) : rowsByTick.set(ticks[n], [row]));
  let lit = [];
  const [left, right] = [playback.left, playback.right];
  // A log may begin in the middle of a fight.
  const began = playback.began ?? 0, beginning = began + 1;
  slider.min = beginning;
  let now = beginning, linking = 0, playing = 0;
  // Every moment is a link: once the cursor stays, the address says where.
  const link = () => {
    clearTimeout(linking);
    if (!playing) linking = setTimeout(() => history.replaceState(null, "", `#tick=${now}`), 150);
  };
  const go = (tick, scroll) => {
    now = Math.max(beginning, Math.min(playback.ticks, Math.round(tick)));
    link();
    slider.value = now;
    const x = left + (now - beginning) / Math.max(1, playback.ticks - began) * (right - left);
    cursor.setAttribute("x1", x); cursor.setAttribute("x2", x);
    if (frames.length) show(frameAt(now));
    stand(now);
    const standing = frames.length ? [...frameAt(now).figures.values()].filter((one) => one[1]).length : 0;
    byId("moment-words").textContent = `${((now - 1) / playback.rate).toFixed(2)} s, tick ${now}: ${standing} stand`;
    const there = rowsByTick.get(now) ?? [];
    lit.forEach((row) => row.classList.remove("now"));
    there.forEach((row) => row.classList.add("now"));
    lit = there;
    if (scroll) {
      const shown = rows.find((row, n) => ticks[n] >= now && !row.hidden);
      const list = byId("feed-list");
      if (shown) list.scrollTop = shown.offsetTop - list.offsetTop - 60;
    }
  };
  slider.addEventListener("input", () => go(+slider.value, true));
  // The cursor goes where the timeline is pressed, and follows the pointer until it is let go.
  const point = (event) => {
    const box = line.getBoundingClientRect();
    const x = (event.clientX - box.left) / box.width * 1280;
    go(beginning + (x - left) / (right - left) * (playback.ticks - began), true);
  };
  line.style.touchAction = "pan-y";
  line.addEventListener("pointerdown", (event) => { point(event); line.setPointerCapture(event.pointerId); });
  line.addEventListener("pointermove", (event) => { if (event.buttons & 1) point(event); });
  for (const row of rows) row.querySelector(".time").addEventListener("click", () => go(+row.dataset.tick, false));
  const jump = (marks, way) => {
    const found = rows.map((row, n) => [row, n]).filter(([row]) => marks.includes(row.dataset.mark)).map(([, n]) => ticks[n])
      .filter((tick) => way > 0 ? tick > now : tick < now);
    if (found.length) go(way > 0 ? Math.min(...found) : Math.max(...found), true);
  };
  for (const button of document.querySelectorAll("[data-jump]")) {
    button.addEventListener("click", () => jump(button.dataset.jump, +button.dataset.way));
  }
  const play = byId("play");
  const stop = () => { cancelAnimationFrame(playing); playing = 0; play.textContent = "Play"; link(); };
  play.addEventListener("click", () => {
    if (playing) return stop();
    play.textContent = "Pause";
    let begun = null;
    const from = now >= playback.ticks ? beginning : now;
    const turn = (time) => {
      begun ??= time;
      go(from + (time - begun) / 1000 * playback.rate * +byId("speed").value, true);
      if (now >= playback.ticks) return stop();
      playing = requestAnimationFrame(turn);
    };
    playing = requestAnimationFrame(turn);
  });
  document.addEventListener("keydown", (event) => {
    if (/^(INPUT|SELECT|BUTTON|SUMMARY)$/.test(event.target.tagName) || event.ctrlKey || event.metaKey || event.altKey) return;
    const keys = {
      ArrowRight: () => go(now + (event.shiftKey ? playback.rate : 1), true),
      ArrowLeft: () => go(now - (event.shiftKey ? playback.rate : 1), true),
      h: () => jump("*", 1), H: () => jump("*", -1), r: () => jump("o", 1), R: () => jump("o", -1), d: () => jump("X", 1), D: () => jump("X", -1),
      " ": () => play.click(),
    };
    if (keys[event.key]) { keys[event.key](); event.preventDefault(); }
  });

  // What is shown of the feed.
  const boxes = [...document.querySelectorAll("[data-shows]")], search = byId("search");
  // Read once: the text of thousands of rows takes longer than looking through it.
  let texts = null;
  const filter = () => {
    const marks = boxes.filter((box) => box.checked).map((box) => box.dataset.shows).join("");
    const words = search.value.toLowerCase();
    if (words) texts ??= rows.map((row) => row.textContent.toLowerCase());
    let count = 0;
    rows.forEach((row, n) => {
      const hidden = !marks.includes(row.dataset.mark) || (words !== "" && !texts[n].includes(words));
      if (row.hidden !== hidden) row.hidden = hidden;
      count += hidden ? 0 : 1;
    });
    byId("shown").textContent = `${count} of ${rows.length} lines`;
  };
  boxes.forEach((box) => box.addEventListener("change", filter));
  search.addEventListener("input", filter);
  filter();
  const asked = () => +(location.hash.match(/^#tick=(\d+)$/) ?? [])[1];
  addEventListener("hashchange", () => { if (asked() && asked() !== now) go(asked(), true); });
  // First seen is the last death, with the blow that led to it taken apart; without one, the first hit.
  const death = rows.findLast((row) => row.dataset.mark === "X");
  if (!asked() && death) {
    const before = rows.slice(0, rows.indexOf(death)).reverse();
    const blow = before.find((row) => row.dataset.tick === death.dataset.tick && row.querySelector("details"));
    if (blow) blow.querySelector("details").open = true;
  }
  const first = death ?? rows.find((row) => row.dataset.mark === "*");
  go(asked() || (first ? +first.dataset.tick : beginning), true);
  // Opening the page is no move of the cursor.
  clearTimeout(linking);
})();
