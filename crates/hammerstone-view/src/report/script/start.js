// The start: the data is in the page, or comes from the place that the page came from.
/// What is seen first: the first check that failed at a tick, else the last death with its ledger, else the first hit.
const firstSeen = () => {
  const failed = fight.checks.filter((check) => !check.fine && check.at != null).sort((one, other) => one.at - other.at)[0];
  if (failed) return { tick: Math.min(failed.at, fight.ticks), chosen: null };
  const death = fight.lines.findLastIndex((line) => markOf(line) === "X");
  const line = death >= 0 ? death : fight.lines.findIndex((one) => markOf(one) === "*");
  return line >= 0 ? { tick: fight.lines[line][TICK], chosen: { kind: "line", of: line } } : { tick: fight.beginning, chosen: null };
};
const follows = () => {
  const asked = readAddress();
  if (asked.view && [...byId("views").children].some((one) => one.dataset.view === asked.view)) at.view = asked.view;
  if (asked.from != null && asked.to != null) range(+asked.from, +asked.to);
  if (asked.chosen !== undefined) at.chosen = asked.chosen;
  if (asked.chosen === null) at.gone = "What the address names is not in this fight.";
  return asked.tick;
};
const load = (data, details) => {
  fight = indexed(data);
  if (details) detail(details);
  Object.assign(at, { tick: fight.beginning, from: lower(), to: upper(), chosen: null, gone: null });
  const first = firstSeen();
  show("data");
  const tick = follows();
  if (!tick && !at.chosen) at.chosen = first.chosen;
  show("size");
  go(tick || (at.chosen?.kind === "line" ? fight.lines[at.chosen.of][TICK] : first.tick));
  show("choice");
  quiet = false;
  document.documentElement.classList.add("ready");
};
addEventListener("hashchange", () => { if (fight && location.hash !== address()) { const tick = follows(); if (tick) go(tick); show("choice"); } });
const sizes = new ResizeObserver(() => { if (fight) show("size"); });
[byId("field"), byId("timeline"), byId("events")].forEach((part) => sizes.observe(part));
const taken = (id) => { const block = byId(id), text = block.textContent; block.remove(); return unpacked(text); };
const open = async () => {
  load(await taken("data"));
  // What is seen first is drawn before the details are unpacked.
  await new Promise((ready) => setTimeout(ready, 30));
  detail(await taken("details"));
  const scrolled = inspector.scrollTop;
  inspect();
  inspector.scrollTop = scrolled;
  document.documentElement.classList.add("detailed");
  // The first search is as quick as the others.
  lowered();
};
if (!byId("data")) keepLooking(); else open().catch((error) => { byId("head").textContent = `This page could not be opened: ${error.message}. It needs a browser that can unpack gzip.`; throw error; });
