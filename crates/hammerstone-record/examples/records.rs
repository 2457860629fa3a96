//! One run and every record of it: the feed and its sentences, accounts of blows, results of swings, totals, lanes of time, a playback,
//! who hears what, and what a rule heard. Then a second run with another seed, compared with the first.
//!
//! Run it with `cargo run -p hammerstone-record --example records`.

use hammerstone::flow::{Condition, Group, Reaction, Rule};
use hammerstone::prelude::*;
use hammerstone_record::*;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let held = b.outcome("held");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 100).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 30).part(trunk));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(6, 4, 10)
            .damage(crush, 8, 14)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.5 }),
    );
    let rule = b.rule(
        Rule::on("the yard is held", "combatant.died")
            .when(Condition::Alive(Group::team(beasts), 0, 0))
            .does(Reaction::End(held)),
    );
    let rules = b.build()?;

    let mut digests = Vec::new();
    for seed in [7, 8] {
        let mut fight = Encounter::new(&rules, seed);
        // Ledgers, deliveries and gates cost time, so they are kept only if asked for; accounts and traces are made of them.
        fight.keep_ledgers(true);
        fight.keep_deliveries(true);
        fight.keep_gates(true);
        let mut orders = fight.orders();
        let odo = orders.spawn(mason, Pose::IDENTITY);
        let near = orders.spawn(hound, Pose::at([0.0, 0.0, 1.2]));
        let far = orders.spawn(hound, Pose::at([0.0, 0.0, 4.0]));

        let mut run = Run::new();
        for (who, name) in [(odo, "odo"), (near, "near hound"), (far, "far hound")] {
            run.names.call(who, name);
        }
        let mut feed = Feed::new(Vec::new(), Format::JsonLines);
        let (mut transcript, mut accounts) = (Transcript::new(), Accounts::new());
        let mut swings = SwingResults::new(Some("odo"), Some("far hound"));
        let (mut summary, mut tally, mut running) = (Summary::default(), Tally::new(), Running::new());
        let (mut lanes, mut playback) = (Lanes::new(), Playback::new());
        let (mut wiring, mut trace, mut digest) = (Wiring::new(&rules), RuleTrace::new(rule), Digest::new());
        for tick in 0..120 {
            if tick % 20 == 0 {
                fight.orders().start(odo, maul);
            }
            if tick == 60 {
                fight.orders().move_to(odo, Pose::at([0.0, 0.0, 2.8]));
            }
            fight.tick()?;
            let seen = run.observe(&fight);
            feed.write(&seen)?;
            seen.show(&mut [
                &mut transcript,
                &mut accounts,
                &mut swings,
                &mut summary,
                &mut tally,
                &mut running,
                &mut lanes,
                &mut playback,
                &mut wiring,
                &mut trace,
                &mut digest,
            ]);
            if fight.outcome().is_some() {
                break;
            }
        }
        digests.push(digest);
        if seed != 7 {
            break;
        }

        let names = &run.names;
        let lines = String::from_utf8(feed.finish(&rules, names)?)?;
        println!(
            "feed: {} lines; the last is\n  {}",
            lines.lines().count(),
            lines.lines().last().unwrap_or_default()
        );
        println!(
            "sentences: {}; the last is\n  {}",
            transcript.told().len(),
            transcript.told().last().ok_or("none")?.text
        );
        let first = accounts.all().first().ok_or("no blow landed")?;
        println!("accounts: {} blows; the first passed {} gates", accounts.all().len(), first.gates.len());
        for swing in swings.finish(&fight).swings.iter().take(1) {
            println!("swing {} of odo at the far hound: {}", swing.swing, swing.outcome);
        }
        summary.write(&mut std::io::stdout(), &rules, names)?;
        println!("\ndeaths, from the tally: {}", tally.deaths().len());
        let ran = running.finish(&fight, names, seed);
        println!("a row of a survey: {} after {:.2} s, {} hits", ran.outcome, ran.seconds(), ran.hits);
        println!("lanes: {:?}", lanes.all().iter().map(|lane| lane.name.as_str()).collect::<Vec<_>>());
        println!("playback: {} ticks", playback.last_tick());
        println!("wiring: {} rows", wiring.diagram(&rules, names).topics.len());
        let fired = trace.all().iter().filter(|hearing| hearing.fired).count();
        println!("the rule heard {} deaths and fired for {fired}", trace.all().len());
        assert_eq!((trace.all().len(), fired, tally.deaths().len()), (2, 1, 2));
        assert_eq!(ran.outcome, "held");
    }
    let [first, second] = &digests[..] else { return Err("two runs".into()) };
    let compared = first.compare(second);
    println!(
        "with another seed: {} alike in both, {} that differ",
        compared.both,
        compared.differences.len()
    );
    assert!(!compared.differences.is_empty());
    Ok(())
}
