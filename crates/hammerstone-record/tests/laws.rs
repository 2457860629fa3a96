//! What records say of generated fights is what their facts say, counted here once more and otherwise.

use hammerstone::event::DamageDealt;
use std::collections::{BTreeMap, BTreeSet};

use hammerstone::event::{Event, Listener, NotFired};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone_record::*;
use proptest::prelude::*;
use testkit::{fights, play};

/// The plainest account of a run: what was counted from its facts alone.
#[derive(Default)]
struct Fold {
    hits: u64,
    refusals: u64,
    deaths: usize,
    taken: i64,
}

impl Fold {
    fn observe(&mut self, encounter: &Encounter) {
        let facts = encounter.facts();
        for event in facts.events() {
            match *event {
                Event::HitLanded(_) => self.hits += 1,
                Event::HitRefused(_) => self.refusals += 1,
                Event::CombatantDied(_) => self.deaths += 1,
                Event::DamageDealt(DamageDealt { amount, .. }) => self.taken += amount,
                _ => {}
            }
        }
    }
}

/// Every record of one run.
struct Records {
    accounts: Accounts,
    tally: Tally,
    running: Running,
    swing_results: SwingResults,
    transcript: Transcript,
    lanes: Lanes,
    playback: Playback,
}

impl Records {
    fn new() -> Records {
        Records {
            accounts: Accounts::new(),
            tally: Tally::new(),
            running: Running::new(),
            swing_results: SwingResults::new(None, None),
            transcript: Transcript::new(),
            lanes: Lanes::new(),
            playback: Playback::new(),
        }
    }

    /// All of them, as one list.
    fn all(&mut self) -> [&mut dyn Record; 7] {
        let Records { accounts, tally, running, swing_results, transcript, lanes, playback } = self;
        [accounts, tally, running, swing_results, transcript, lanes, playback]
    }

    /// What the records say otherwise than the fold.
    fn differ(self, fold: &Fold, names: &Names, encounter: &Encounter) -> Vec<String> {
        let mut wrong = Vec::new();
        let mut same = |what: &str, record: i64, counted: i64| {
            if record != counted {
                wrong.push(format!("{what}: {record} in the record, {counted} counted"));
            }
        };
        let (hits, deaths) = (fold.hits as i64, fold.deaths as i64);
        let accounts = self.accounts.all();
        let damage = accounts
            .iter()
            .flat_map(|account| &account.amounts)
            .filter(|amount| amount.damage_type.is_some());
        same("damage of accounts", damage.map(|amount| amount.amount).sum(), fold.taken);
        same(
            "hits of accounts",
            accounts.iter().filter(|account| account.hit.is_some()).count() as i64,
            hits,
        );
        same("damage of the tally", self.tally.dealt().iter().map(|dealt| dealt.amount).sum(), fold.taken);
        same("hits of the tally", self.tally.counts().hits as i64, hits);
        same("deaths of the tally", self.tally.deaths().len() as i64, deaths);
        let swing_results = self.swing_results.finish(encounter);
        let targets = || swing_results.swings.iter().flat_map(|swing| &swing.targets);
        let answers = || targets().flat_map(|one| &one.answers);
        same("hits of tries", answers().filter(|answer| answer.hit.is_some()).count() as i64, hits);
        let refused = answers().filter(|answer| answer.gate.is_some() && answer.fix.is_some());
        same("refusals of tries", refused.count() as i64, fold.refusals as i64);
        let ran = self.running.finish(encounter, names, 1);
        same("hits of the survey", ran.hits as i64, hits);
        same("damage of the survey", ran.fighters.iter().map(|fighter| fighter.taken).sum(), fold.taken);
        same("deaths of the survey", ran.teams.iter().map(|team| i64::from(team.deaths)).sum(), deaths);
        let died = self.transcript.told().iter().filter(|told| told.mark == "X").count();
        same("deaths of the transcript", died as i64, deaths);
        let ordered = self.transcript.told().windows(2).all(|two| two[0].clock <= two[1].clock);
        same("what is out of order in the transcript", i64::from(!ordered), 0);
        let marks = self.lanes.all().iter().flat_map(|lane| &lane.marks);
        let died = marks.filter(|mark| mark.sort == Sort::Died).count();
        same("deaths of the lanes", died as i64, deaths);
        wrong
    }
}

/// Where everyone stood and how they were, by name, as a playback keeps it.
type Seen = BTreeMap<String, (bool, i64, i64, [i64; 3])>;

fn seen(encounter: &Encounter, names: &Names) -> Seen {
    let (scene, view) = (encounter.scene(), encounter.view());
    let here = |who: &CombatantId| matches!(view.life(*who), Life::Standing | Life::Dead);
    let one = |who: CombatantId| {
        let (now, most) = view.health(who).unwrap();
        let at = scene.way(who).unwrap().1.at.map(|metres| (metres * 100.0).round() as i64);
        (names.of(who).to_owned(), (view.life(who) == Life::Standing, now, most, at))
    };
    view.combatants().filter(here).map(one).collect()
}

/// Reads a playback as a page does: each frame changes the one before.
fn replayed(playback: &Playback) -> Vec<(usize, Seen)> {
    let json = serde_json::to_value(playback).unwrap();
    let number = |value: &serde_json::Value| value.as_i64().unwrap();
    let mut now = Seen::new();
    let mut frames = Vec::new();
    for frame in json["frames"].as_array().unwrap() {
        for change in frame[1].as_array().unwrap() {
            let name = json["names"][number(&change[0]) as usize][0].as_str().unwrap().to_owned();
            if change.as_array().unwrap().len() == 1 {
                now.remove(&name);
                continue;
            }
            let at = [0, 1, 2].map(|axis| number(&change[4][axis]));
            now.insert(name, (number(&change[1]) == 1, number(&change[2]), number(&change[3]), at));
        }
        frames.push((number(&frame[0]) as usize, now.clone()));
    }
    frames
}

proptest! {
    #![proptest_config(testkit::cases(120))]

    /// Damage, hits, refusals, deaths and the order of things are the same in every record as in the facts.
    #[test]
    fn records_say_what_the_facts_say(fight in fights()) {
        let (mut fold, mut records, mut all) = (Fold::default(), Records::new(), Vec::new());
        let mut run = Run::new();
        let encounter = play(&fight, true, |encounter| {
            fold.observe(encounter);
            let tick = run.observe(encounter);
            tick.show(&mut records.all());
            all.push(seen(encounter, tick.names));
        });
        for (tick, frame) in replayed(&records.playback) {
            prop_assert_eq!(&frame, &all[tick - 1], "tick {}", tick);
        }
        let wrong = records.differ(&fold, &run.names, &encounter);
        prop_assert!(wrong.is_empty(), "{wrong:#?}");
    }

    /// A rule fires on a fact or declines it, never both and never twice; and only on what it listens to.
    #[test]
    fn a_rule_fires_or_declines(fight in fights()) {
        let mut strange = Vec::new();
        play(&fight, false, |encounter| {
            let (rules, facts) = (encounter.rules(), encounter.facts());
            let mut known = BTreeSet::new();
            let fired = facts.deliveries.iter().filter_map(|delivery| match delivery.listener {
                Listener::Rule(rule) => Some((delivery.seq, rule)),
                Listener::Hook(_) => None,
            });
            for (seq, rule) in fired.chain(facts.declined.iter().map(|declined| (declined.seq, declined.rule))) {
                let fact = facts.of(seq).unwrap();
                let listens = rules.topics_of(&rules.rules()[rule.index()]).contains(&fact.event.topic());
                if !known.insert((seq, rule)) || !listens {
                    strange.push((facts.tick, seq, rule));
                }
            }
            for declined in facts.declined {
                let rule = &rules.rules()[declined.rule.index()];
                let (conditions, losses) = (rule.all_conditions().len(), facts.losses_of(declined));
                let of_rule = losses.iter().all(|loss| usize::from(loss.condition) < conditions);
                if !of_rule || losses.is_empty() == (declined.why == NotFired::Conditions) {
                    strange.push((facts.tick, declined.seq, declined.rule));
                }
            }
            encounter.keep_deliveries(true);
        });
        prop_assert!(strange.is_empty(), "{strange:?}");
    }
}

/// The laws above can fail: records that miss some ticks say something else.
#[test]
fn missed_ticks_are_noticed() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |z: f32| Shape::Sphere { at: [0.0, 0.0, z], radius: 0.5 };
    let poke = b.attack(Attack::melee("poke").timeline(0, 1, 1).hitbox(ball(1.0)).damage(crush, 3, 3));
    let mason = b.template(Template::new("mason", masons, 90).part(Part::new("trunk", ball(0.0))));
    let hound = b.template(Template::new("hound", beasts, 30).part(Part::new("skull", ball(0.0))));
    let rules = b.build().unwrap();
    let run = |misses: bool| {
        let mut encounter = Encounter::new(&rules, 1);
        let odo = encounter.orders().spawn(mason, Pose::IDENTITY);
        encounter.orders().spawn(hound, Pose::at([0.0, 0.0, 1.0]));
        let (mut fold, mut records, mut followed) = (Fold::default(), Records::new(), Run::new());
        for tick in 0..60 {
            encounter.orders().start(odo, poke);
            encounter.tick().unwrap();
            fold.observe(&encounter);
            let seen = followed.observe(&encounter);
            if !misses || !(10..20).contains(&tick) {
                seen.show(&mut records.all());
            }
        }
        assert!(fold.hits == 10 && fold.deaths == 1, "{} {}", fold.hits, fold.deaths);
        records.differ(&fold, &followed.names, &encounter)
    };
    assert_eq!(run(false), Vec::<String>::new());
    assert!(!run(true).is_empty());
}

/// A playback that grows too large keeps every second frame, and so on; those that it keeps are whole.
#[test]
fn a_long_reel_is_thinned_and_stays_whole() {
    const MANY: usize = 160;
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let rod = Shape::Capsule { from: [0.0, 0.5, 0.0], to: [0.0, 0.5, 1.0], radius: 0.2 };
    let mason = b.template(Template::new("mason", masons, 9).part(Part::new("arm", rod)));
    let rules = b.build().unwrap();
    let mut encounter = Encounter::new(&rules, 1);
    let all: Vec<CombatantId> = (0..MANY).map(|_| encounter.orders().spawn(mason, Pose::IDENTITY)).collect();
    let (mut run, mut playback, mut kept) = (Run::new(), Playback::keeping(300_000), Vec::new());
    for tick in 0..300 {
        for (place, &who) in all.iter().enumerate() {
            let at = Pose::at([place as f32, 0.0, tick as f32 * 0.01]);
            encounter.orders().teleport(who, at.facing(Axis::Y, tick as f32));
        }
        encounter.tick().unwrap();
        let tick = run.observe(&encounter);
        playback.observe(&tick);
        kept.push(seen(&encounter, tick.names));
    }
    let frames = replayed(&playback);
    assert!(
        playback.step() >= 2 && frames.len() == 300usize.div_ceil(playback.step() as usize),
        "{}",
        playback.step()
    );
    for (place, (tick, frame)) in frames.iter().enumerate() {
        assert_eq!(*tick, place * playback.step() as usize + 1);
        assert_eq!(frame, &kept[tick - 1], "tick {tick}");
    }
}

proptest! {
    #![proptest_config(testkit::cases(256))]

    /// A tenth, a half and nine tenths of the values are no more than what a spread says, and no smaller value would do.
    #[test]
    fn a_spread_has_its_shares_below(values in proptest::collection::vec(-1000i32..1000, 1..60)) {
        let ran = |&value: &i32| Ran {
            seed: 1,
            outcome: String::new(),
            rate: 60,
            ticks: 1,
            hits: 0,
            teams: vec![TeamRan { name: "masons".to_owned(), dealt: value.into(), deaths: 0, stand: 0 }],
            fighters: Vec::new(),
            means: Vec::new(),
        };
        let runs: Vec<Ran> = values.iter().map(ran).collect();
        let spread = Point::of(Vec::new(), &runs).unwrap().teams[0].dealt;
        let values: Vec<f64> = values.into_iter().map(f64::from).collect();
        for (share, value) in [(0.1, spread.low), (0.5, spread.middle), (0.9, spread.high)] {
            let needed = share * values.len() as f64 - 1e-9;
            let upto = values.iter().filter(|one| **one <= value).count() as f64;
            let below = values.iter().filter(|one| **one < value).count() as f64;
            prop_assert!(upto >= needed && below < needed + 1e-6, "{share}: {value} of {values:?}");
        }
        prop_assert!((spread.mean * values.len() as f64 - values.iter().sum::<f64>()).abs() < 1e-6);
        prop_assert_eq!(spread.within, 0.0);
        prop_assert_eq!(Point::of(Vec::new(), []), None);
    }
}
