// Moves a cursor through the fight: on the timeline, on the stage, in the feed. Without it the page has everything but the movement.
"use strict";
(() => {
  const reel = JSON.parse(document.getElementById("reel").textContent);
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
  for (const [tick, changed, volumes, touches] of reel.frames) {
    figures = new Map(figures);
    for (const one of changed) {
      if (one.length === 1) figures.delete(one[0]);
      else figures.set(one[0], one);
    }
    frames.push({ tick, figures, volumes, touches });
  }
  const frameAt = (tick) => {
    const place = Math.min(frames.length - 1, Math.floor((tick - 1) / reel.step));
    return frames[Math.max(0, place)];
  };

  // What lies across and up the picture, from above and from the side.
  const views = { y: [[0, 1, 2, -1], [0, 1, 1, 1]], z: [[0, 1, 1, 1], [0, 1, 2, 1]], x: [[1, 1, 2, 1], [1, 1, 0, 1]] }[reel.up];
  const flat = ([a, s, b, t], at) => [s * at[a], t * at[b]];
  const points = (solid) => {
    if (solid.length === 4) return [[solid.slice(0, 3)], solid[3]];
    if (solid.length === 7) return [[solid.slice(0, 3), solid.slice(3, 6)], solid[6]];
    const corners = [];
    for (let n = 0; n < 8; n += 1) {
      corners.push([0, 1, 2].map((i) => solid[i] + [0, 1, 2].reduce((sum, axis) =>
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

  // Both views side by side, at one scale that holds the whole fight.
  const wide = 1280, high = 470, gap = 20;
  const bounds = views.map(() => [Infinity, Infinity, -Infinity, -Infinity]);
  const widen = (solid) => views.forEach((view, n) => {
    const [all, radius] = points(solid);
    for (const at of all) {
      const [u, v] = flat(view, at);
      const box = bounds[n];
      box[0] = Math.min(box[0], u - radius); box[1] = Math.min(box[1], v - radius);
      box[2] = Math.max(box[2], u + radius); box[3] = Math.max(box[3], v + radius);
    }
  });
  for (const [, changed] of reel.frames) for (const one of changed) if (one.length > 1) one[5].forEach(widen);
  reel.obstacles.forEach(widen);
  const size = (box) => [Math.max(box[2] - box[0], 100), Math.max(box[3] - box[1], 100)];
  const panel = (wide - gap) / 2;
  const scale = Math.min(...bounds.map((box) => Math.min((panel - 30) / size(box)[0], (high - 40) / size(box)[1])));
  const stage = byId("stage");
  stage.setAttribute("viewBox", `0 0 ${wide} ${high}`);
  const panels = views.map((view, n) => {
    const box = bounds[n], [w, h] = size(box);
    const left = n * (panel + gap) + (panel - w * scale) / 2, top = 24 + (high - 30 - h * scale) / 2;
    const to = (at) => { const [u, v] = flat(view, at); return [left + (u - box[0]) * scale, top + (box[3] - v) * scale]; };
    const label = svg("text", { x: n * (panel + gap) + 8, y: 16, "font-size": 11, fill: "var(--quiet)" }, stage);
    label.textContent = n === 0 ? "from above" : "from the side";
    return { to, group: svg("g", {}, stage) };
  });
  svg("line", { x1: panel + gap / 2, x2: panel + gap / 2, y1: 0, y2: high, stroke: "var(--rule)" }, stage);
  const draw = (solid, to, parent, attributes) => {
    const [all, radius] = points(solid);
    if (all.length === 8) {
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
    for (const { to, group } of panels) {
      group.replaceChildren();
      for (const solid of reel.obstacles) draw(solid, to, group, { fill: "var(--rule)", stroke: "var(--quiet)" });
      const taken = [];
      for (const [place, stands, health, most, at, parts] of frame.figures.values()) {
        const [name, side] = reel.names[place];
        const look = stands ? { fill: colour(side), "fill-opacity": 0.25, stroke: colour(side) }
          : { fill: "none", stroke: "var(--quiet)", "stroke-dasharray": "3 3" };
        for (const part of parts) draw(part, to, group, look);
        const [x, y] = to(at);
        if (stands) {
          svg("rect", { x: x - 14, y: y + 5, width: 28, height: 3.5, fill: "var(--paper)", stroke: colour(side), "stroke-width": 0.6 }, group);
          svg("rect", { x: x - 14, y: y + 5, width: 28 * Math.max(0, health) / Math.max(1, most), height: 3.5, fill: colour(side) }, group);
        }
        // A name stands where no other does.
        const box = [x + 8, y - 8, x + 14 + name.length * 7, y + 4];
        if (box[2] < wide && !taken.some((o) => box[0] < o[2] && o[0] < box[2] && box[1] < o[3] && o[1] < box[3])) {
          taken.push(box);
          svg("text", { x: box[0], y: y + 2, "font-size": 11, fill: "var(--ink)", stroke: "var(--paper)", "stroke-width": 3, "paint-order": "stroke" }, group)
            .textContent = name;
        }
      }
      for (const [side, end, start] of frame.volumes) {
        if (start) draw(start, to, group, { fill: colour(side), "fill-opacity": 0.18 });
        draw(end, to, group, { fill: colour(side), "fill-opacity": 0.6, stroke: "var(--ink)" });
      }
      for (const [x, y, z, came] of frame.touches) {
        const [u, v] = to([x, y, z]);
        if (came === 1) svg("path", { d: `M${u} ${v - 8}l2 6l6 2l-6 2l-2 6l-2 -6l-6 -2l6 -2z`, fill: "var(--ink)", stroke: "var(--paper)" }, group);
        else svg("circle", { cx: u, cy: v, r: 3, fill: "var(--paper)", stroke: "var(--ink)" }, group);
      }
    }
  };

  // The cursor.
  const slider = byId("tick"), line = byId("timeline").querySelector("svg");
  const height = line.viewBox.baseVal.height;
  const cursor = svg("line", { y1: 50, y2: height - 70, stroke: "var(--ink)", "stroke-width": 1.5 }, line);
  const rows = [...byId("feed-list").children];
  const ticks = rows.map((row) => +row.dataset.tick);
  const [left, right] = [reel.left, reel.right];
  let now = 1;
  const go = (tick, scroll) => {
    now = Math.max(1, Math.min(reel.ticks, Math.round(tick)));
    slider.value = now;
    const x = left + (now - 1) / Math.max(1, reel.ticks) * (right - left);
    cursor.setAttribute("x1", x); cursor.setAttribute("x2", x);
    if (frames.length) show(frameAt(now));
    const standing = frames.length ? [...frameAt(now).figures.values()].filter((one) => one[1]).length : 0;
    byId("moment-words").textContent = `${((now - 1) / reel.rate).toFixed(2)} s, tick ${now}: ${standing} stand`;
    rows.forEach((row, n) => row.classList.toggle("now", ticks[n] === now));
    if (scroll) {
      const shown = rows.find((row, n) => ticks[n] >= now && !row.hidden);
      const list = byId("feed-list");
      if (shown) list.scrollTop = shown.offsetTop - list.offsetTop - 60;
    }
  };
  slider.addEventListener("input", () => go(+slider.value, true));
  line.addEventListener("pointerdown", (event) => {
    const box = line.getBoundingClientRect();
    const x = (event.clientX - box.left) / box.width * 1280;
    go(1 + (x - left) / (right - left) * reel.ticks, true);
  });
  for (const row of rows) row.querySelector(".time").addEventListener("click", () => go(+row.dataset.tick, false));
  const jump = (marks, way) => {
    const found = rows.map((row, n) => [row, n]).filter(([row]) => marks.includes(row.dataset.mark)).map(([, n]) => ticks[n])
      .filter((tick) => way > 0 ? tick > now : tick < now);
    if (found.length) go(way > 0 ? Math.min(...found) : Math.max(...found), true);
  };
  for (const button of document.querySelectorAll("[data-jump]")) {
    button.addEventListener("click", () => jump(button.dataset.jump, +button.dataset.way));
  }
  let playing = 0;
  const play = byId("play");
  const stop = () => { cancelAnimationFrame(playing); playing = 0; play.textContent = "Play"; };
  play.addEventListener("click", () => {
    if (playing) return stop();
    play.textContent = "Pause";
    let begun = null;
    const from = now >= reel.ticks ? 1 : now;
    const turn = (time) => {
      begun ??= time;
      go(from + (time - begun) / 1000 * reel.rate * +byId("speed").value, true);
      if (now >= reel.ticks) return stop();
      playing = requestAnimationFrame(turn);
    };
    playing = requestAnimationFrame(turn);
  });
  document.addEventListener("keydown", (event) => {
    if (/^(INPUT|SELECT|BUTTON|SUMMARY)$/.test(event.target.tagName) || event.ctrlKey || event.metaKey || event.altKey) return;
    const keys = {
      ArrowRight: () => go(now + (event.shiftKey ? reel.rate : 1), true),
      ArrowLeft: () => go(now - (event.shiftKey ? reel.rate : 1), true),
      h: () => jump("*", 1), H: () => jump("*", -1), r: () => jump("o", 1), R: () => jump("o", -1), f: () => jump("X", 1), F: () => jump("X", -1),
      " ": () => play.click(),
    };
    if (keys[event.key]) { keys[event.key](); event.preventDefault(); }
  });

  // What is shown of the feed.
  const boxes = [...document.querySelectorAll("[data-shows]")], search = byId("search");
  const filter = () => {
    const marks = boxes.filter((box) => box.checked).map((box) => box.dataset.shows).join("");
    const words = search.value.toLowerCase();
    let count = 0;
    for (const row of rows) {
      row.hidden = !marks.includes(row.dataset.mark) || !row.textContent.toLowerCase().includes(words);
      count += row.hidden ? 0 : 1;
    }
    byId("shown").textContent = `${count} of ${rows.length} lines`;
  };
  boxes.forEach((box) => box.addEventListener("change", filter));
  search.addEventListener("input", filter);
  filter();
  const first = rows.find((row) => row.dataset.mark === "*");
  const asked = +(location.hash.match(/^#tick=(\d+)$/) ?? [])[1];
  go(asked || (first ? +first.dataset.tick : 1), false);
})();
