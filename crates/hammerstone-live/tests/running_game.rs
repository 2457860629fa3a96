//! A running game and its page: who may ask, what it shows, what stops it; and that the game is the same with it and without.

use std::net::TcpStream;
use std::time::{Duration, Instant};

use hammerstone::audit::Auditor;
use hammerstone::prelude::*;
use hammerstone_live::{CannotServe, Live};
use hammerstone_record::{FlightRecorder, Log, LogOptions, Record, Run};
use hammerstone_view::{Heading, Reporter};
use pagekit::{Browser, ask};
use serde_json::{Value, json};

/// A yard in which two strike at each other, at sixty ticks a second.
struct Yard {
    fight: Encounter,
    all: [CombatantId; 2],
    maul: AttackId,
    run: Run,
}

fn yard(hound: i64) -> Yard {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 4000).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, hound).corpse_time(600).part(trunk));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(6, 4, 10)
            .damage(crush, 8, 14)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.5 }),
    );
    let mut fight = Encounter::new(&b.build().unwrap(), 7);
    fight.keep_ledgers(true);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let hound = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.2]));
    Yard { fight, all: [odo, hound], maul, run: Run::new() }
}

impl Yard {
    fn tick(&mut self) {
        if self.fight.view().tick().is_multiple_of(30) {
            self.fight.orders().start(self.all[0], self.maul);
        }
        self.fight.tick().unwrap();
        self.run.observe(&self.fight);
    }

    /// Runs so many ticks as a game does, which asks before each.
    fn frames(&mut self, live: &mut Live, frames: usize) -> usize {
        let mut ran = 0;
        for _ in 0..frames {
            if !live.held() {
                self.tick();
                live.observe(&self.fight);
                ran += 1;
            }
        }
        ran
    }
}

fn json_of(address: &str, path: &str) -> Value {
    let (status, head, body) = ask(address, "GET", path, &[], "");
    assert_eq!(status, 200, "{path}: {head}");
    serde_json::from_slice(&body).unwrap()
}

fn send(address: &str, wanted: &Value) {
    let (status, _, body) = ask(address, "POST", "control", &[], &wanted.to_string());
    assert_eq!(status, 204, "{}", String::from_utf8_lossy(&body));
}

#[test]
fn only_its_own_page_is_answered() {
    let mut live = Live::bind("127.0.0.1:0").unwrap();
    let address = live.address().to_owned();
    let (status, head, page) = ask(&address, "GET", "", &[], "");
    assert_eq!(status, 200);
    assert!(
        head.contains("Content-Security-Policy: default-src 'none'") && head.contains("no-store"),
        "{head}"
    );
    assert!(String::from_utf8(page).unwrap().starts_with("<!DOCTYPE html>"));
    let host = address.split('/').nth(2).unwrap();
    let port = host.split(':').nth(1).unwrap();
    let local = format!("localhost:{port}");
    let (other_port, name) =
        (format!("127.0.0.1:{}", 1 + port.parse::<u32>().unwrap() % 60000), format!("evil.example:{port}"));
    // Without the token nothing is told; requests by another name, or from another page, are refused.
    for (path, headers, status) in [
        ("/", &[][..], 404),
        ("/0123456789abcdef0123456789abcdef/state", &[], 404),
        ("state", &[], 200),
        ("state", &[("Host", local.as_str())], 200),
        ("state", &[("Host", name.as_str())], 403),
        ("state", &[("Host", other_port.as_str())], 403),
        ("state", &[("Host", "")], 403),
        ("state", &[("Origin", "http://evil.example")], 403),
        ("state", &[("Origin", &format!("http://{host}"))], 200),
        ("nothing", &[], 404),
        ("../../etc/passwd", &[], 404),
    ] {
        assert_eq!(ask(&address, "GET", path, headers, "").0, status, "{path} {headers:?}");
    }
    for (method, path, body, status) in [
        ("POST", "state", "{}", 404),
        ("PUT", "control", "\"hold\"", 405),
        ("POST", "control", "no", 400),
        ("POST", "control", "{\"step\":-1}", 400),
        ("POST", "control", "{\"stops\":{\"topics\":\"\"}}", 400),
        ("POST", "control", &"x".repeat(100_000), 413),
    ] {
        assert_eq!(ask(&address, method, path, &[], body).0, status, "{method} {path}");
    }
    assert!(!live.held(), "nothing of that stopped the game");
    // The token is another each time.
    assert_ne!(Live::bind("127.0.0.1:0").unwrap().address(), address);
    // Others may reach it only where that is said.
    assert!(matches!(Live::bind("0.0.0.0:0"), Err(CannotServe::NotLoopback(_))));
    assert!(matches!(Live::bind("here"), Err(CannotServe::NoAddress(_))));
    assert!(matches!(Live::bind(host), Err(CannotServe::Refused { .. })), "the port is taken");
    let anywhere = Live::bind_anywhere("0.0.0.0:0").unwrap();
    let port = anywhere.address().split([':', '/']).nth(4).unwrap().to_owned();
    let token = anywhere.address().split('/').nth(3).unwrap().to_owned();
    assert_eq!(ask(&format!("http://127.0.0.1:{port}/{token}/"), "GET", "state", &[], "").0, 200);
    drop(live);
    let begun = Instant::now();
    while TcpStream::connect(host).is_ok() {
        assert!(begun.elapsed() < Duration::from_secs(120), "its port is free again");
        std::thread::sleep(Duration::from_millis(20));
    }
}

#[test]
fn a_page_sees_what_a_report_of_the_same_ticks_says() {
    let (mut yard, mut live) = (yard(90_000), Live::bind("127.0.0.1:0").unwrap());
    let address = live.address().to_owned();
    live.title("The yard");
    live.name(yard.all[0], "odo");
    yard.run.names.call(yard.all[0], "odo");
    // With no page open nothing is gathered.
    yard.frames(&mut live, 90);
    assert!(!live.is_watched());
    assert_eq!(json_of(&address, "state")["version"], 0);
    assert!(live.is_watched());
    assert_eq!(ask(&address, "GET", "data", &[], "").0, 204);
    let mut reporter = Reporter::new(yard.fight.rules());
    for _ in 0..200 {
        yard.tick();
        reporter.observe(&yard.run.tick(&yard.fight));
        live.observe(&yard.fight);
    }
    let heading = Heading { title: "The yard", seed: 7, checks: &[] };
    let mut data = Vec::new();
    reporter.write_data(&mut data, &heading, yard.fight.rules(), &yard.run.names).unwrap();
    let wanted: Value = serde_json::from_slice(&data).unwrap();
    let found = json_of(&address, "data");
    assert_eq!(found, wanted);
    assert_eq!(
        (&found[0]["began"], &found[0]["ticks"], &found[0]["names"][0]),
        (&json!(90), &json!(290), &json!("odo"))
    );
    assert!(found[1]["accounts"].as_array().unwrap().len() > 3);
    assert_eq!(json_of(&address, "state")["version"], 290);
    // Another minute, and more: what is shown is the last, whole.
    yard.frames(&mut live, 0);
    for _ in 0..3 * 3600 {
        if yard.run.tick(&yard.fight).clock % 600 == 0 {
            json_of(&address, "state");
        }
        yard.tick();
        live.observe(&yard.fight);
    }
    let found = json_of(&address, "data");
    let (began, ticks) = (found[0]["began"].as_u64().unwrap(), found[0]["ticks"].as_u64().unwrap());
    assert!(ticks == 290 + 3 * 3600 && (3600..=7200).contains(&(ticks - began)), "{began} to {ticks}");
    assert_eq!(found[0]["lanes"].as_array().unwrap().iter().filter(|lane| lane["name"] == "odo").count(), 1);
}

/// Another fight, of other rules, and one that is taken back: told anew, without a trace of the one before.
#[test]
fn another_fight_on_the_same_page_is_told_anew() {
    let (mut first, mut live) = (yard(90_000), Live::bind("127.0.0.1:0").unwrap());
    let address = live.address().to_owned();
    live.name(first.all[0], "odo");
    json_of(&address, "state");
    first.frames(&mut live, 120);
    let saved = first.fight.clone();
    first.frames(&mut live, 60);
    assert_eq!(json_of(&address, "data")[0]["ticks"], 180);
    first.fight = saved;
    first.frames(&mut live, 10);
    let data = json_of(&address, "data");
    assert_eq!((&data[0]["began"], &data[0]["ticks"]), (&json!(120), &json!(130)));
    assert_eq!(data[0]["lanes"][0]["name"], "odo", "it is the same odo");
    // Other rules: with a rule, and other templates.
    let mut b = Ruleset::builder(30);
    let crew = b.team("crew");
    let line = b.line("low water");
    let diver = b.template(Template::new("diver", crew, 10));
    b.rule(
        hammerstone::flow::Rule::on("speaks", "combatant.joined")
            .does(hammerstone::flow::Reaction::say(None, line)),
    );
    let mut other = Encounter::new(&b.build().unwrap(), 3);
    other.orders().spawn(diver, Pose::IDENTITY);
    for _ in 0..200 {
        json_of(&address, "state");
        other.tick().unwrap();
        live.observe(&other);
    }
    let data = json_of(&address, "data");
    assert_eq!(
        (&data[0]["rate"], &data[0]["ticks"], &data[0]["rules"][0]["name"]),
        (&json!(30), &json!(200), &json!("speaks"))
    );
    assert_eq!(
        data[0]["lanes"].as_array().unwrap().iter().map(|lane| &lane["name"]).collect::<Vec<_>>(),
        ["diver"]
    );
}

#[test]
fn a_page_stops_the_game_steps_it_and_lets_it_go_on() {
    let (mut yard, mut live) = (yard(60), Live::bind("127.0.0.1:0").unwrap());
    let address = live.address().to_owned();
    json_of(&address, "state");
    assert_eq!(yard.frames(&mut live, 10), 10);
    send(&address, &json!("hold"));
    assert_eq!(yard.frames(&mut live, 10), 0);
    assert_eq!(json_of(&address, "state")["game"]["why"], "asked for");
    send(&address, &json!({ "step": 3 }));
    assert_eq!(yard.frames(&mut live, 10), 3);
    send(&address, &json!("go-on"));
    assert_eq!(yard.frames(&mut live, 10), 10);
    // At a topic, with a name; at a death: in the tick in which it comes, and at the fact.
    for (stops, topic) in [
        (json!({ "topic": "hit.landed", "name": "hound" }), "hit.landed"),
        (json!({ "topic": "attack" }), "attack."),
        (json!({ "deaths": true }), "combatant.died"),
    ] {
        send(&address, &json!({ "stops": stops }));
        send(&address, &json!("go-on"));
        let mut ran = 0;
        while yard.frames(&mut live, 1) == 1 {
            ran += 1;
            assert!(ran < 1000, "{stops}");
        }
        let game = json_of(&address, "state")["game"].clone();
        let fact = game["fact"][1].as_u64().unwrap();
        let found = yard.fight.facts().facts.iter().find(|one| one.seq == fact).map(|one| one.event.topic());
        let path = yard.fight.rules().topics().path(found.unwrap()).unwrap();
        assert!(path.starts_with(topic), "{stops}: {path}");
        assert_eq!(game["fact"][0], yard.fight.view().tick());
    }
    // The game itself may hold.
    send(&address, &json!({ "stops": {} }));
    send(&address, &json!("go-on"));
    live.hold("an assertion of the game");
    assert_eq!(yard.frames(&mut live, 5), 0);
    assert_eq!(json_of(&address, "state")["game"]["why"], "an assertion of the game");
    // A page that is closed holds no game.
    let begun = Instant::now();
    while live.held() {
        assert!(begun.elapsed() < Duration::from_secs(120), "it goes on once no page is open");
        std::thread::sleep(Duration::from_millis(50));
    }
    assert!(!live.is_watched());
}

#[test]
fn breaches_stop_it_and_its_log_runs_again() {
    let (mut yard, mut live) = (yard(60), Live::bind("127.0.0.1:0").unwrap());
    let address = live.address().to_owned();
    json_of(&address, "state");
    send(&address, &json!({ "stops": { "breaches": true } }));
    let mut auditor = Auditor::new(yard.fight.rules());
    let mut recorder = FlightRecorder::begin(&mut yard.fight, 600, LogOptions::at_rate(60));
    for _ in 0..40 {
        recorder.tick(&mut yard.fight).unwrap();
        auditor.observe(&yard.fight.facts());
        live.observe(&yard.fight);
        live.audit(&auditor);
    }
    assert!(!live.held(), "all is well");
    // An auditor that misses what happened finds that it does not add up.
    for tick in 0..40 {
        if tick == 20 {
            yard.fight.orders().start(yard.all[0], yard.maul);
        }
        recorder.tick(&mut yard.fight).unwrap();
        live.observe(&yard.fight);
        if tick % 3 == 0 {
            auditor.observe(&yard.fight.facts());
        }
    }
    assert!(!auditor.breaches().is_empty(), "the control");
    live.audit(&auditor);
    assert!(live.held());
    let why = json_of(&address, "state")["game"]["why"].as_str().unwrap().to_owned();
    assert_eq!(why, auditor.breaches()[0].to_string());
    assert_eq!(json_of(&address, "data")[0]["checks"][0]["text"], why.as_str());
    // The log is made where it is asked for, and only there.
    live.log(|| panic!("no page asked for it"));
    let asked = {
        let address = address.clone();
        std::thread::spawn(move || ask(&address, "GET", "log", &[], ""))
    };
    let begun = Instant::now();
    while !asked.is_finished() {
        live.log(|| recorder.log());
        assert!(begun.elapsed() < Duration::from_secs(120));
        std::thread::sleep(Duration::from_millis(5));
    }
    let (status, head, log) = asked.join().unwrap();
    assert!(status == 200 && head.contains("filename=\"fight.log\""), "{head}");
    assert_eq!(Log::read(log).unwrap().len(), 80);
    let (status, _, body) = ask(&address, "GET", "log", &[], "");
    assert!(status == 400 && String::from_utf8(body).unwrap().contains("live.log"), "no game answers now");
}

proptest::proptest! {
    #![proptest_config(testkit::cases(48))]

    /// The same facts and the same bytes with a page and without.
    #[test]
    fn a_watched_game_is_the_same_game(fight in testkit::fights()) {
        let mut live = Live::bind("127.0.0.1:0").unwrap();
        json_of(live.address(), "state");
        let mut observed = 0;
        let alone = testkit::play(&fight, true, |_| ());
        let watched = testkit::play(&fight, true, |encounter| {
            live.observe(encounter);
            observed += 1;
        });
        proptest::prop_assert!(observed > 0 && alone.same_state(&watched));
        let data = json_of(live.address(), "data");
        proptest::prop_assert!(data[0]["lines"].as_array().is_some_and(|lines| !lines.is_empty()));
    }
}

#[test]
fn the_page_of_a_running_game_is_used_in_a_browser() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let (mut yard, mut live) = (yard(90_000), Live::bind("127.0.0.1:0").unwrap());
    live.name(yard.all[0], "odo");
    live.title("The yard");
    let address = live.address().to_owned();
    // The game runs on its own thread until the browser is done.
    let (done, is_done) = std::sync::mpsc::channel::<()>();
    let game = std::thread::spawn(move || {
        while is_done.try_recv() == Err(std::sync::mpsc::TryRecvError::Empty) {
            yard.frames(&mut live, 1);
            std::thread::sleep(Duration::from_millis(4));
        }
    });
    browser.visit(&address);
    browser.until("document.querySelector('h1')?.textContent === 'The yard'");
    let tick =
        |browser: &mut Browser| browser.ask("+document.getElementById('tick').value").as_u64().unwrap();
    let first = tick(&mut browser);
    browser.until(&format!("+document.getElementById('tick').value > {}", first + 30));
    assert_eq!(browser.ask("document.documentElement.scrollHeight"), 800, "still one screen");
    // At the next hit it stops, and shows it with its ledger.
    browser.press("#stop-topic", "");
    "hit.landed".chars().for_each(|letter| browser.key(&letter.to_string()));
    browser.key("Tab");
    browser.ask("document.getElementById('stop-topic').dispatchEvent(new Event('change'))");
    browser.until("document.getElementById('held').textContent.startsWith('held: odo hits')");
    browser.until("document.querySelector('#inspector h2').textContent.startsWith('* odo hits hound')");
    browser.until("document.getElementById('inspector').textContent.includes('rolled from 8 to 14')");
    let held = tick(&mut browser);
    browser.press("#step", "one tick");
    browser.until(&format!("+document.getElementById('tick').value === {}", held + 1));
    // It goes on; one who looks back no longer follows.
    browser.ask("document.getElementById('stop-topic').value = ''; document.getElementById('stop-topic').dispatchEvent(new Event('change'))");
    browser.press("#hold", "go on");
    browser.until("document.getElementById('held').textContent === 'running'");
    browser.press("#labels button", "odo");
    let [left, top, wide, _] = browser.area("#lanes");
    browser.click([left + wide * 0.5, top + 200.0]);
    browser.until("document.getElementById('follow').getAttribute('aria-pressed') === 'false'");
    let stays = tick(&mut browser);
    std::thread::sleep(Duration::from_millis(1500));
    assert_eq!(tick(&mut browser), stays);
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
    done.send(()).unwrap();
    game.join().unwrap();
    // A game that is gone says so.
    browser.until("document.getElementById('changes').textContent.includes('does not answer')");
}
