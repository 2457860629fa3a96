//! The page of a fight, as a file and in a real browser, by clicking.

mod common;

use std::fs;
use std::path::{Path, PathBuf};

use common::{FIGHT, in_folder, rules, run};
use pagekit::Browser;
use tempfile::TempDir;

/// The page of a fight, in a folder that goes with it.
fn page(fight: &str) -> (TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let page = folder.path().join("fight.html");
    let (status, text, errors) = run(&["report", fight, "-o", page.to_str().unwrap()]);
    assert_eq!((status, text.as_str(), errors.as_str()), (0, "", ""));
    (folder, page)
}

#[test]
fn a_page_is_one_file_and_says_the_most_without_scripts() {
    let (folder, page) = page("scenarios/skirmish.toml");
    let html = fs::read_to_string(&page).unwrap();
    assert!(html.len() < 400_000, "{} bytes", html.len());
    for elsewhere in ["src=", "@import", "url(http", "<link"] {
        assert!(!html.contains(elsewhere), "nothing is loaded from elsewhere: {elsewhere}");
    }
    let plain = html.split("<noscript>").nth(1).unwrap().split("</noscript>").next().unwrap();
    for words in [
        "dawn after 25.23 s, seed 7",
        "693 attempts = 60 hits + 633 refusals",
        "cairn-warden died to bram by wedge-thrust",
        "fine: the auditor: every law held in every tick",
        "expectations of the scenario hold",
    ] {
        assert!(plain.contains(words), "{words}: {plain}");
    }
    let nowhere = folder.path().join("no/where.html");
    let (status, _, errors) = run(&["report", "scenarios/skirmish.toml", "-o", nowhere.to_str().unwrap()]);
    assert!(status == 2 && errors.contains("cannot be written"), "{errors}");
    // Names come from files, and may hold what a page would take for its own.
    let fight = FIGHT.replace("title = \"Two\"", "title = \"Two </title><b> & </script>\"");
    let files = [("a.rules.toml", rules("")), ("fight.toml", fight)];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, _, errors) = in_folder(&files, &["report", "fight.toml", "-o", page.to_str().unwrap()]);
    assert_eq!((status, errors.as_str()), (0, ""));
    let html = fs::read_to_string(&page).unwrap();
    assert!(html.contains("<title>Two &lt;/title&gt;&lt;b&gt; &amp; &lt;/script&gt;</title>"));
    assert_eq!(html.matches("</script>").count(), 3);
    assert_eq!(html.matches("<b>").count(), 0);
}

#[test]
fn the_page_fits_one_screen_and_all_parts_follow_a_click() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (_folder, page) = page("scenarios/skirmish.toml");
    browser.visit_file(&page, "");
    // Everything is there at once, in its place.
    assert_eq!(
        browser.ask("[document.documentElement.scrollWidth, document.documentElement.scrollHeight]"),
        serde_json::json!([1280, 800])
    );
    for (part, area) in [
        ("#head", [0., 0., 1280., 40.]),
        ("#field", [0., 40., 800., 440.]),
        ("#inspector", [800., 40., 480., 440.]),
        ("#transport", [0., 480., 1280., 32.]),
        ("#timeline", [0., 512., 800., 288.]),
        ("#events", [800., 512., 480., 288.]),
    ] {
        assert_eq!(browser.area(part), area, "{part}");
    }
    // First seen is the last death, with its ledger.
    assert!(browser.text("#moment").starts_with("24.22 s, tick 1454"), "{}", browser.text("#moment"));
    assert!(browser.text("#inspector h2").contains("cairn-warden dies, killed by bram"));
    assert!(
        browser.text("#inspector").contains("resistance21.000015.7500times 0.75"),
        "{}",
        browser.text("#inspector")
    );
    browser.press("#inspector .to", "bram hits cairn-warden");
    let heard = browser.text("#inspector");
    assert!(heard.contains("Heard by") && heard.contains("What they did about it"), "{heard}");
    browser.visit_file(&page, "");
    assert_eq!(browser.address(), "", "opening a page is no move of the cursor");
    // A click on a lane: on the swing that runs there; the field, the events and the address follow.
    let lane = browser.middle("#labels button", "bram")[1];
    let [left, _, wide, _] = browser.area("#lanes");
    let at = |second: f64| left + second / (1513.0 / 60.0) * wide;
    browser.click([at(10.12), lane - 5.0]);
    assert!(
        browser.text("#inspector h2").starts_with("bram's wedge-thrust: it met no target"),
        "{}",
        browser.text("#inspector h2")
    );
    for words in ["startup", "window 1", "0.81 m apart", "to let it strike"] {
        assert!(browser.text("#inspector").contains(words), "{words}: {}", browser.text("#inspector"));
    }
    let address = browser.address();
    assert!(address.contains("swing=bram%40"), "{address}");
    assert!(browser.text("#moment").starts_with("10.1"));
    // An event: the cursor goes there, and the ledger is open.
    browser.ask("location.hash = 'tick=105'");
    browser.until("document.getElementById('moment').textContent.includes('tick 105')");
    browser.press("#rows [data-line]", "odo hits hound#3");
    assert!(browser.text("#moment").starts_with("1.82 s, tick 110: 12 stand"), "{}", browser.text("#moment"));
    assert!(browser.text("#inspector").contains("28 crush"));
    for words in ["Contact", "Gates passed", "own-body · ended · closed", "health 32 to 4, of 32"] {
        assert!(browser.text("#inspector").contains(words), "{words}: {}", browser.text("#inspector"));
    }
    // From there to the one who struck, to its swing, and back to the whole.
    browser.press("#inspector .to", "odo");
    assert!(browser.text("#inspector h2").ends_with("odo"), "{}", browser.text("#inspector h2"));
    assert!(
        browser.text("#inspector").contains("health")
            && browser.text("#inspector").contains("what each step of the ledgers added")
    );
    assert_eq!(browser.ask("document.querySelector('#labels [aria-pressed=true]').textContent"), "■ odo");
    browser.key("Escape");
    assert!(browser.text("#inspector h2") == "The fight as a whole");
    // A click on a body on the map chooses it. Clicks all over the map find several.
    browser.ask("location.hash = 'tick=110&who=ilse'");
    let [x, y, wide, high] = browser.area("#map");
    let mut found = Vec::new();
    for step in 1..16 {
        for row in 1..12 {
            browser.click([x + wide * f64::from(step) / 16.0, y + high * f64::from(row) / 12.0]);
            let head = browser.text("#inspector h2");
            if head != "The fight as a whole" && !found.contains(&head) {
                found.push(head);
            }
        }
    }
    assert!(
        found.iter().any(|head| head.contains("keeper")) && found.len() >= 4,
        "bodies can be clicked: {found:?}"
    );
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
}

#[test]
fn the_timeline_is_zoomed_and_dragged_and_the_address_holds_all() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (_folder, page) = page("scenarios/skirmish.toml");
    browser.visit_file(&page, "#tick=110");
    let [left, top, wide, _] = browser.area("#lanes");
    let place = |share: f64, row: f64| [left + wide * share, top + 22.0 * row - 8.0];
    // The cursor goes with the pointer, and not without a button.
    browser.drag(&[place(0.5, 11.5), place(0.7, 11.5), place(0.9, 11.5)]);
    let dragged = browser.text("#moment");
    assert!(dragged.starts_with("22.7"), "{dragged}");
    browser.drag(&[place(0.2, 11.5)]);
    assert!(browser.text("#moment").starts_with("5.0"), "{}", browser.text("#moment"));
    // The wheel looks closer at where it is turned.
    let before = browser.ask("document.getElementById('lanes').toDataURL()");
    for _ in 0..4 {
        browser.wheel(place(0.2, 3.0), -300.0);
    }
    let address = browser.address();
    let number = |key: &str| {
        address
            .split(['#', '&'])
            .find_map(|word| word.strip_prefix(key)?.parse::<f64>().ok())
            .unwrap_or_else(|| panic!("{address}"))
    };
    let (from, to) = (number("from="), number("to="));
    assert!(to - from < 100.0 && from < 302.0 && 302.0 < to, "{address}");
    assert_ne!(before, browser.ask("document.getElementById('lanes').toDataURL()"), "what is drawn is other");
    // The overview: taking hold of the range moves it, drawing beside it makes a new one, a key shows all again.
    let [x, y, width, _] = browser.area("#overview");
    let over = |tick: f64| [x + tick / 1513.0 * width, y + 16.0];
    browser.drag(&[over(302.0), over(800.0)]);
    let moved = browser.address();
    assert!(moved.contains("from=7") || moved.contains("from=8"), "{moved}");
    browser.drag(&[over(1000.0), over(1200.0), over(1300.0)]);
    assert!(
        browser.address().contains("from=100") && browser.address().contains("to=130"),
        "{}",
        browser.address()
    );
    let held = browser.address();
    browser.key("0");
    assert!(!browser.address().contains("from="));
    // What the address holds can be asked for: moment, range, view, selection.
    let asked = format!("{held}&view=side&who=bram");
    browser.visit_file(&page, &asked);
    assert!(browser.text("#inspector h2").ends_with("bram"));
    assert_eq!(browser.text("#views [aria-selected=true]"), "side");
    let mut words: Vec<String> =
        browser.address().trim_start_matches('#').split('&').map(str::to_owned).collect();
    let mut wanted: Vec<String> = asked.trim_start_matches('#').split('&').map(str::to_owned).collect();
    words.sort();
    wanted.sort();
    assert!(browser.address().is_empty() || words == wanted, "{words:?} {wanted:?}");
    browser.visit_file(&page, "#tick=110&who=no-one");
    assert!(browser.text("#inspector").contains("is not in this fight"));
    // Keys: a tick, a second, the next death, the hit before.
    for (key, moment) in [("ArrowRight", "1.83 s"), ("d", "2.90 s"), ("H", "2.90 s"), ("R", "2.62 s")] {
        browser.key(key);
        assert!(browser.text("#moment").starts_with(moment), "{key}: {}", browser.text("#moment"));
    }
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
}

#[test]
fn events_are_found_by_kind_name_topic_and_text() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (_folder, page) = page("scenarios/skirmish.toml");
    browser.visit_file(&page, "#tick=110");
    assert_eq!(browser.text("#shown"), "355/519", "contacts wait until they are asked for");
    browser.press("#kinds button", ".");
    assert_eq!(browser.text("#shown"), "519/519");
    browser.press("#kinds button", ".");
    for (words, few) in [("combatant.died", 15), ("cairn-warden dies", 1), ("no such thing", 0)] {
        let at = browser.middle("#search", "");
        browser.click(at);
        browser.ask("document.getElementById('search').select()");
        words.chars().for_each(|letter| browser.key(&letter.to_string()));
        assert_eq!(browser.text("#shown"), format!("{few}/519"), "{words}");
    }
    browser.ask("document.getElementById('search').value = ''; document.getElementById('search').dispatchEvent(new Event('input'))");
    // Only what is about the selection.
    browser.press("#labels button", "keeper");
    browser.press("#about", "");
    let about: u64 = browser.text("#shown").split('/').next().unwrap().parse().unwrap();
    assert!(about > 5 && about < 60, "{about}");
    let strangers = browser.ask("[...document.querySelectorAll('#rows [data-line]')].filter((row) => !row.title.includes('keeper')).length");
    assert!(strangers.as_u64().unwrap() < 3, "{strangers}");
    // Arrows go through the list.
    browser.press("#about", "");
    browser.ask("document.getElementById('list').scrollTop = 0");
    browser.until("document.querySelector('#rows [data-line]').textContent.includes('0.00 s')");
    browser.press("#rows [data-line]", "joins");
    let first = browser.address();
    browser.ask("document.getElementById('list').focus()");
    browser.key("ArrowDown");
    assert_ne!(browser.address(), first);
    // Those of one template share a lane, which opens.
    browser.press("#labels button", "9 × tide-hound");
    browser.press("#labels button", "tide-hound#4");
    assert!(browser.text("#inspector h2").ends_with("tide-hound#4"));
    // The wiring, with the rules; and what a rule heard.
    browser.press("#views button", "wiring");
    browser.press("#wiring .to", "the-warden-strikes");
    assert!(
        browser.text("#inspector h2").starts_with("rule the-warden-strikes"),
        "{}",
        browser.text("#inspector h2")
    );
    browser.visit_file(&page, "#tick=10&rule=the-warden-comes");
    let said = browser.text("#inspector");
    assert!(
        said.contains("heard 15 times, fired once")
            && said.contains("wanted 0 standing of tide-hound, found 1"),
        "{said}"
    );
    browser.visit_file(&page, "#tick=10&waves=tide-hounds");
    assert!(
        browser.text("#inspector").contains("wave 1 of 3: 2 x tide-hound"),
        "{}",
        browser.text("#inspector")
    );
    // Each control can be reached and has a name.
    let nameless = browser.ask(
        "[...document.querySelectorAll('button, input, select, [tabindex], canvas')].filter((node) => !node.hidden && !(node.getAttribute('aria-label') || node.textContent.trim() || node.title)).map((node) => node.outerHTML)",
    );
    assert_eq!(nameless, serde_json::json!([]));
    // A narrow window: parts below each other, none cut off.
    browser.resize(420, 900);
    assert_eq!(browser.ask("document.documentElement.scrollWidth"), 420);
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
}

/// How everything stands at the cursor: gauges, holds, statuses; also when it goes back.
#[test]
fn the_inspector_shows_the_state_at_the_cursor() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (_folder, page) = page("scenarios/craft/grab.toml");
    browser.visit_file(&page, "#tick=60&who=hound");
    let held = browser.text("#inspector");
    for part in ["held byodo", "status clutched"] {
        assert!(held.contains(part), "{part}: {held}");
    }
    browser.visit_file(&page, "#tick=60&who=odo");
    let holder = browser.text("#inspector");
    assert!(holder.contains("holdshound"), "{holder}");
    browser.visit_file(&page, "#tick=60&who=keeper");
    assert!(browser.text("#inspector").contains("poise40 of 40"), "{}", browser.text("#inspector"));
    browser.ask("location.hash = 'tick=20&who=odo'");
    browser.until("document.getElementById('moment').textContent.includes('tick 20')");
    assert!(!browser.text("#inspector").contains("holdshound"), "he holds no one yet");
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
}

/// Each question of `docs/reading-a-fight.md` that is about one fight, from the page as it opens, in at most four clicks. What a change did, whether
/// it is fair, and when two seeds differ, a served page says: `live.rs`.
/// Has the page keep, for each canvas, how often its last drawing set each dash, and between which heights it drew lines with it.
const KEEPS_DASHES: &str = "(() => { window.kept = {}; const real = CanvasRenderingContext2D.prototype; \
    const [clear, dash, line] = [real.clearRect, real.setLineDash, real.lineTo]; \
    real.clearRect = function (...area) { kept[this.canvas.id] = {}; clear.apply(this, area); }; \
    real.setLineDash = function (to) { this.dashed = String(to); const of = kept[this.canvas.id] ??= {}; \
        (of[this.dashed] ??= { times: 0, low: 1e9, high: -1e9 }).times += 1; dash.call(this, to); }; \
    real.lineTo = function (x, y) { const of = kept[this.canvas.id]?.[this.dashed]; \
        if (of) { of.low = Math.min(of.low, y); of.high = Math.max(of.high, y); } line.call(this, x, y); }; })()";

#[test]
fn gauges_and_open_gates_are_seen_on_the_page() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let at = |browser: &mut Browser, tick: u32| {
        browser.ask(&format!("location.hash = 'tick={tick}'"));
        browser.until(&format!("document.getElementById('moment').textContent.includes('tick {tick}')"));
    };
    let (_folder, lock) = page("scenarios/craft/lock.toml");
    browser.visit_file(&lock, "");
    browser.ask(KEEPS_DASHES);
    // A gate that is open is a dashed outline: one of the two at first, for half a second both, and one again.
    for (tick, open) in [(116, 1), (372, 2), (480, 1)] {
        at(&mut browser, tick);
        assert_eq!(browser.ask("kept.map['3,3']?.times ?? 0"), open, "in tick {tick}");
    }
    // A gauge is a dotted line in its lane: from the bottom of the lane to its top, since it was full and empty.
    let (_folder, wind) = page("scenarios/craft/wind.toml");
    browser.visit_file(&wind, "");
    browser.ask(KEEPS_DASHES);
    at(&mut browser, 70);
    let height = browser.ask("Math.round(kept.lanes['1,2'].high - kept.lanes['1,2'].low)");
    assert_eq!(height, 18);
}

#[test]
fn the_questions_take_four_clicks_at_most() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (_folder, demo) = page("scenarios/skirmish.toml");
    let (_other_folder, elder) = page("scenarios/elder.toml");
    type Clicks = &'static [(&'static str, &'static str)];
    let questions: [(&str, &PathBuf, Clicks, &[&str]); 7] = [
        // Why no hit? A swing that met no target, or was refused, says why, and what would let it strike.
        (
            "why no hit",
            &demo,
            &[
                ("#labels button", "bram"),
                ("#inspector summary", "Its swings"),
                ("#inspector details .to", "it met no target"),
            ],
            &["apart", "to let it strike"],
        ),
        // Why twice? Both hits of one swing, with their windows.
        (
            "why twice",
            &demo,
            &[
                ("#labels button", "5 × shard-hound"),
                ("#labels button", "hound#2"),
                ("#inspector summary", "Its swings"),
                ("#inspector details .to", "it struck odo"),
            ],
            &["it struck 2 times", "window 1", "window 2", "already-struck"],
        ),
        // Why this number? The ledger of a hit.
        ("why this number", &elder, &[("#jumps button", "‹ hit")], &["step", "before", "after", "base"]),
        // Who heard? The wiring.
        (
            "who heard",
            &demo,
            &[("#views button", "wiring")],
            &["the-warden-strikes", "never published", "bounties"],
        ),
        // Why dead? The last blow, and all before it.
        (
            "why dead",
            &demo,
            &[("#labels button", "keeper"), ("#inspector p .to", " s")],
            &["The last of it", "All that its health lost and gained"],
        ),
        // Why not dead? What each step took off, what was refused.
        (
            "why not dead",
            &elder,
            &[("#labels button", "odo")],
            &["died never", "what each step of the ledgers added", "refusals at it"],
        ),
        // Why did the wave not come? What its rule heard and missed.
        (
            "why no wave",
            &demo,
            &[
                ("#inspector [aria-label^=close]", ""),
                ("#inspector summary", "Rules"),
                ("#inspector .to", "the-warden-comes"),
            ],
            &["heard 15 times, fired once", "wanted", "found"],
        ),
    ];
    for (question, page, clicks, answers) in questions {
        assert!(clicks.len() <= 4);
        browser.visit_file(page, "");
        for (selector, text) in clicks {
            browser.press(selector, text);
        }
        let said = format!("{}{}", browser.text("#inspector"), browser.text("#wiring"));
        for answer in answers {
            assert!(said.contains(answer), "{question}: {answer}: {said}");
        }
    }
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
}

#[test]
fn first_seen_is_the_expectation_that_failed_first() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let folder = tempfile::tempdir().unwrap();
    let page = folder.path().join("fight.html");
    let expects = "\n[[expect]]\ntopic = \"hit.landed\"\nduring = [\"0s\", \"0.5s\"]\nat-least = 40\n[[expect]]\ntopic = \"combatant.died\"\nat-least = 30\n";
    let files = [("a.rules.toml", rules("")), ("fight.toml", format!("{FIGHT}{expects}"))];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, _, errors) = in_folder(&files, &["report", "fight.toml", "-o", page.to_str().unwrap()]);
    assert_eq!((status, errors.as_str()), (0, ""));
    browser.visit_file(&page, "");
    assert!(browser.text("#head button").contains("2 of"), "{}", browser.text("#head"));
    assert!(browser.text("#moment").contains("tick 30:"), "{}", browser.text("#moment"));
    let said = browser.text("#inspector");
    assert!(said.contains("To look at: 2") && said.contains("at least 40"), "{said}");
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
}

/// Goes quickly through a page: all views, lanes, many links and events.
const WALK: &str = r##"
    document.querySelectorAll("[data-view]").forEach((view) => view.click());
    let clicks = 0;
    const click = (node) => { node?.click(); clicks += node ? 1 : 0; };
    for (const lane of [...document.querySelectorAll("#labels button")].slice(0, 20)) { click(lane); click(document.querySelector("[data-view=along]")); }
    for (let n = 0; n < 30; n += 1) {
        for (const fold of document.querySelectorAll("#inspector details")) fold.open = true;
        const all = document.querySelectorAll("#inspector .to");
        click(all[n * 7 % all.length]);
    }
    const type = (key) => document.dispatchEvent(new KeyboardEvent("keydown", { key }));
    type("Escape");
    for (let n = 0; n < 40; n += 1) { type("hrdHRD+-"[n % 8]); const all = document.querySelectorAll("#rows [data-line]"); click(all[n * 5 % all.length]); }
    clicks
"##;

#[test]
fn whatever_is_chosen_in_a_fight_can_be_looked_at() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (folder, _) = page("scenarios/duel.toml");
    let of = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    // Also a log that begins in the middle of a fight.
    let (log, case) = (of("night.log"), of("case.toml"));
    assert_eq!(run(&["run", "scenarios/skirmish.toml", "--quiet", "--log", &log]).0, 0);
    assert_eq!(
        run(&["reduce", &log, "--about", "odo", "--topic", "hit.landed", "--between", "3..5", "-o", &case]).0,
        0
    );
    let fights = [
        "elder.toml",
        "craft/waves.toml",
        "craft/grab.toml",
        "craft/commands.toml",
        "flow/again.toml",
        "bones/ducking.toml",
        "yard/level.toml",
    ];
    let fights = fights.map(|fight| format!("scenarios/{fight}"));
    for fight in fights.iter().chain([&case]) {
        let page = folder.path().join("any.html");
        let (status, _, errors) = run(&["report", fight, "-o", page.to_str().unwrap()]);
        assert_eq!((status, errors.as_str()), (0, ""), "{fight}");
        browser.visit_file(&page, "");
        let clicks = browser.ask(WALK).as_u64().unwrap();
        assert!(clicks > 40, "{fight}: {clicks}");
        assert!(browser.troubles.is_empty(), "{fight}: {:?}", browser.troubles);
        assert!(browser.text("#inspector").len() > 50, "{fight}");
    }
}

/// A crowd that swings, as long as is asked for.
fn crowd(folder: &Path, combatants: usize, seconds: u32) -> PathBuf {
    let fight = folder.join("crowd.toml");
    let rules = common::root().join("scenarios/craft/reactions.rules.toml");
    let mut text = format!("[scenario]\ntitle = \"A crowd\"\nrules = {rules:?}\nlasts = \"{seconds}s\"\n");
    for n in 0..combatants {
        let (x, z) = (1.2 * (n % 18) as f32, 1.2 * (n / 18) as f32);
        let template = ["leech", "urchin"][n % 2];
        text += &format!(
            "[combatant.c{n}]\ntemplate = \"{template}\"\nat = [{x:.1}, 0, {z:.1}]\nfacing = {}\n",
            n * 37 % 360
        );
    }
    for second in (1..seconds).step_by(2) {
        text += &format!(
            "[[script]]\nat = \"{second}s\"\nstart = \"knock\"\neach = {{ template = \"leech\" }}\n"
        );
    }
    fs::write(&fight, text).unwrap();
    fight
}

/// 60 s of 60; with `HAMMERSTONE_LONG` also 600 s of 300.
#[test]
fn long_and_crowded_fights_are_shown_whole() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let folder = tempfile::tempdir().unwrap();
    let long = std::env::var_os("HAMMERSTONE_LONG").is_some().then_some((300, 600));
    for (combatants, seconds) in [(60, 60)].into_iter().chain(long) {
        let fight = crowd(folder.path(), combatants, seconds);
        let page = folder.path().join("crowd.html");
        let (status, _, errors) = run(&["report", fight.to_str().unwrap(), "-o", page.to_str().unwrap()]);
        assert_eq!((status, errors.as_str()), (0, ""));
        let size = fs::metadata(&page).unwrap().len();
        assert!(size < 30_000_000, "{size} bytes");
        browser.visit_file(&page, "");
        // Two lanes, each of half of them; a few hundred nodes, however long the list is.
        let half = combatants / 2;
        assert_eq!(browser.ask("[...document.querySelectorAll('#labels button')].map((one) => one.textContent.trim().slice(2))"),
            serde_json::json!([format!("▸ {half} × leech"), format!("▸ {half} × urchin")]));
        let nodes = browser.ask("document.querySelectorAll('*').length").as_u64().unwrap();
        assert!(nodes < 1000, "{nodes}");
        let lines: u64 = browser.text("#shown").split('/').nth(1).unwrap().parse().unwrap();
        let left_out = browser.ask("document.getElementById('shown').title");
        assert!(lines > 10 * combatants as u64, "{lines}");
        assert!(!left_out.as_str().unwrap().contains("no room for"), "{left_out}");
        // The last tick is there, and the frame at it.
        browser.key("0");
        let [left, top, wide, _] = browser.area("#lanes");
        browser.click([left + wide - 1.0, top + 200.0]);
        let shown: f64 = browser.text("#moment").split(' ').next().unwrap().parse().unwrap();
        assert!(shown > 0.99 * f64::from(seconds), "{shown}");
        assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
    }
}
