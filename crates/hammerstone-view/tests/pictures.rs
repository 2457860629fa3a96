//! Pictures of a few and of many: no two labels meet, none leaves the page or is too small, and the picture is the same each time.

use hammerstone::Fixed;
use hammerstone::attack::Damage;
use hammerstone::flow::{Limit, Reaction, Rule, Target};
use hammerstone::prelude::*;
use hammerstone::status::Pulse;
use hammerstone::template::{IfItKills, Lives};
use hammerstone_record::{Accounts, Frame, Lanes, Run, StateTable, Told, Transcript, Wiring};
use hammerstone_view::{Heading, Look, Reporter, Screen, frame, png, screen, strip, timeline, wiring};
use proptest::prelude::*;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use serde_json::Value;

/// The timeline of a brawl of so many, of several templates, in which many die.
fn brawl(combatants: usize) -> String {
    let [timeline, ..] = pictures(combatants);
    timeline
}

/// The timeline, one tick, some side by side, and who hears what: many rules, if there are many combatants.
fn pictures(combatants: usize) -> [String; 4] {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let teams = [b.team("masons"), b.team("beasts"), b.team("the drowned")];
    let half = b.threshold("half");
    let line = b.line("I have slept under this stone, and would have slept on.");
    let burn = b.status(
        Status::new("caustic-burn")
            .lasts(50)
            .pulse(Pulse::damage(9, vec![Damage { damage_type: crush, low: 1, high: 3 }])),
    );
    let poke = b.attack(
        Attack::area("a poke with a long pole")
            .timeline(4, 20, 6)
            .hitbox(Shape::Sphere { at: [0.0; 3], radius: 2.0 })
            .damage(crush, 2, 6)
            .inflicts(burn),
    );
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let templates: Vec<TemplateId> = (0..9)
        .map(|i| {
            let template = Template::new(&format!("a template of a long name, number {i}"), teams[i % 3], 30)
                .corpse_time(30)
                .part(trunk.clone());
            let template = if i == 0 { template.lives(Lives::new(3, 20)) } else { template };
            b.template(template.threshold(half, Fixed::ratio(1, 2), IfItKills::Skip))
        })
        .collect();
    b.rule(Rule::on("speaks", "health.crossed").does(Reaction::say(Some(Target::Subject), line)));
    for number in 0..combatants {
        let topic =
            ["hit.landed", "combatant.died", "attack.ended", "contact.met", "health.changed"][number % 5];
        let rule = Rule::on(&format!("one of many rules, number {number}"), topic).limit(Limit::Once);
        b.rule(rule.does(Reaction::say(None, line)));
    }
    let rules = b.build().unwrap();
    let mut wires = Wiring::new(&rules);
    let mut fight = Encounter::new(&rules, 3);
    fight.keep_deliveries(true);
    let all: Vec<CombatantId> = (0..combatants)
        .map(|i| {
            fight
                .orders()
                .spawn(templates[i * i % templates.len()], Pose::at([(i % 20) as f32, 0.0, (i / 20) as f32]))
        })
        .collect();
    let (mut run, mut lanes, mut frames) = (Run::new(), Lanes::new(), Vec::new());
    for tick in 0..300usize {
        let who = all[tick * 7 % all.len()];
        fight.orders().start(who, poke);
        if tick % 3 == 0 {
            fight.orders().damage(all[tick * 11 % all.len()], crush, Fixed::whole(8), tide);
        }
        if tick == 200 {
            fight.orders().reset();
        }
        fight.tick().unwrap();
        run.observe(&fight).show(&mut [&mut lanes, &mut wires]);
        if (100..124).contains(&tick) {
            frames.push(Frame::of(&run.tick(&fight)));
        }
    }
    let every_third: Vec<Frame> = frames.iter().step_by(3).cloned().collect();
    [
        timeline(&lanes, "A brawl", 60, &Look::LIGHT),
        frame(&frames[12], "A brawl", &Look::LIGHT),
        strip(&every_third, all[100 * 7 % all.len()], "A brawl", &Look::LIGHT),
        wiring(&wires.diagram(&rules, &run.names), "A brawl", &Look::LIGHT),
    ]
}

/// Left, top, right, bottom and the words of each label.
fn labels(svg: &str) -> Vec<([f32; 4], String)> {
    let font = ttf_parser::Face::parse(include_bytes!("../fonts/DejaVuSans.ttf"), 0).unwrap();
    let number = |text: &str, name: &str| -> f32 {
        let (_, rest) = text.split_once(&format!(" {name}=\"")).unwrap();
        rest.split('"').next().unwrap().parse().unwrap()
    };
    svg.split("<text")
        .skip(1)
        .map(|text| {
            let (head, rest) = text.split_once('>').unwrap();
            let words = rest.split("</text>").next().unwrap().trim().to_owned();
            let (x, y, size) = (number(head, "x"), number(head, "y"), number(head, "font-size"));
            assert!(size >= 9.0, "{words} is {size} pixels");
            let advance = |c| f32::from(font.glyph_hor_advance(font.glyph_index(c).unwrap()).unwrap());
            let wide: f32 = words.chars().map(advance).sum::<f32>() * size / f32::from(font.units_per_em());
            ([x, y - size * 0.75, x + wide, y + size * 0.2], words)
        })
        .collect()
}

fn clashes(labels: &[([f32; 4], String)]) -> Vec<(&str, &str)> {
    let meet = |a: &[f32; 4], b: &[f32; 4]| a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];
    let mut found = Vec::new();
    for (i, (one, words)) in labels.iter().enumerate() {
        found.extend(
            labels[..i]
                .iter()
                .filter(|(other, _)| meet(one, other))
                .map(|(_, other)| (words.as_str(), other.as_str())),
        );
    }
    found
}

#[test]
fn labels_do_not_meet_with_five_nor_with_two_hundred() {
    for combatants in [1, 5, 24, 200] {
        for svg in pictures(combatants) {
            let labels = labels(&svg);
            assert!(labels.len() > 10, "{combatants}: {}", labels.len());
            assert_eq!(clashes(&labels), [], "{combatants}");
            for ([left, top, right, bottom], words) in &labels {
                assert!(*left >= 0.0 && *right <= 1280.0 && *top >= 0.0, "{combatants}: {words}");
                let high: f32 =
                    svg.split("height=\"").nth(1).unwrap().split('"').next().unwrap().parse().unwrap();
                assert!(*bottom <= high && high <= 801.0, "{combatants}: {words} at {bottom} of {high}");
            }
        }
    }
}

proptest! {
    #![proptest_config(testkit::cases(40))]

    /// Whatever happens in a fight, and however far off, it is drawn: labels do not meet, no number is none, and the page is whole.
    #[test]
    fn every_fight_can_be_drawn(fight in testkit::fights()) {
        let (mut run, mut lanes, mut frames) = (Run::new(), Lanes::new(), Vec::new());
        let mut gathered: Option<(Reporter, Wiring)> = None;
        let mut transcript = Transcript::with_contacts();
        let encounter = testkit::play(&fight, true, |encounter| {
            let rules = encounter.rules();
            let (report, wires) = gathered.get_or_insert_with(|| (Reporter::new(rules), Wiring::new(rules)));
            let seen = run.observe(encounter);
            seen.show(&mut [&mut lanes, report, wires, &mut transcript]);
            frames.push(Frame::of(&seen));
            encounter.keep_deliveries(true);
        });
        let rules = encounter.rules();
        let Some((report, wires)) = gathered else { return Ok(()) };
        let busiest = frames.iter().max_by_key(|frame| frame.told.len() + frame.hitboxes.len()).unwrap();
        let some: Vec<Frame> = frames.iter().step_by(frames.len().div_ceil(6)).cloned().collect();
        let attacker = frames.iter().flat_map(|frame| &frame.hitboxes).find_map(|hitbox| hitbox.attacker);
        let pictures = [
            timeline(&lanes, "A fight", 60, &Look::LIGHT),
            frame(busiest, "A fight", &Look::DARK),
            attacker.map_or(String::new(), |who| strip(&some, who, "A fight", &Look::LIGHT)),
            wiring(&wires.diagram(rules, &run.names), "A fight", &Look::LIGHT),
        ];
        for svg in &pictures {
            let labels = labels(svg);
            prop_assert_eq!(clashes(&labels), []);
            prop_assert!(!svg.contains("NaN") && !svg.contains("inf "), "{}", svg);
        }
        let mut page = Vec::new();
        let heading = Heading { title: "A fight", seed: fight.seed, checks: &[] };
        report.write(&mut page, &heading, rules, &run.names).unwrap();
        let page = String::from_utf8(page).unwrap();
        prop_assert!(page.ends_with("</html>\n"));
        // The data says what the records say, and its numbers lead to what is there.
        let mut data = Vec::new();
        report.write_data(&mut data, &heading, rules, &run.names).unwrap();
        let (data, details): (Value, Value) = serde_json::from_slice(&data).unwrap();
        let list = |of: &Value| of.as_array().cloned().unwrap_or_default();
        let lines = list(&data["lines"]);
        prop_assert_eq!(lines.len(), transcript.told().len());
        let swings: Vec<u64> = list(&data["lanes"])
            .iter()
            .flat_map(|lane| list(&lane["swings"]))
            .filter_map(|swung| swung[0].as_u64())
            .collect();
        let accounts = list(&details["accounts"]);
        let word = |place: &Value| details["words"][place.as_u64().unwrap() as usize].as_str().unwrap().to_owned();
        let mut told_of = vec![false; accounts.len()];
        for (line, told) in lines.iter().zip(transcript.told()) {
            prop_assert_eq!(line[0].as_u64(), Some(u64::from(told.clock)));
            prop_assert_eq!(line[5].as_str(), Some(told.text.as_str()));
            if let Some(swing) = told.swing.filter(|_| told.mark == "*") {
                prop_assert_eq!(line[8].as_u64(), Some(swing.number()));
                prop_assert!(told.parties[1].is_none() || swings.contains(&swing.number()), "{}", told.text);
            }
            let Some(account) = line[9].as_u64() else { continue };
            told_of[account as usize] = true;
            let account = &accounts[account as usize];
            prop_assert!(told.text.contains(&word(&account["target"])), "{} {account}", told.text);
            for amount in list(&account["amounts"]) {
                if let Some(last) = list(&amount[3]).last() {
                    prop_assert_eq!(word(&last[2]), format!("{}.0000", amount[1]));
                }
            }
        }
        let untold: Vec<_> = accounts.iter().zip(told_of).filter(|(_, told)| !told).map(|(account, _)| account).collect();
        prop_assert!(untold.is_empty(), "each account has its sentence: {untold:?}");
    }
}

/// The test above can fail.
#[test]
fn labels_that_meet_are_found() {
    let at = |x: f32, words: &str| ([x, 0.0, x + 10.0, 9.0], words.to_owned());
    assert_eq!(clashes(&[at(0.0, "one"), at(20.0, "two"), at(25.0, "three")]), [("three", "two")]);
}

#[test]
fn many_share_lanes_by_template() {
    let few = brawl(20);
    assert!(!few.contains(" × "), "each has a lane");
    assert!(brawl(200).contains(" × "), "they share lanes");
}

#[test]
fn a_picture_is_the_same_each_time_and_a_png_where_asked() {
    let svg = brawl(5);
    assert_eq!(svg, brawl(5));
    let picture = png(&svg, 1.0).unwrap();
    assert_eq!(&picture[1..4], b"PNG");
    assert_eq!(u32::from_be_bytes(picture[16..20].try_into().unwrap()), 1280);
    assert_eq!(picture, png(&svg, 1.0).unwrap());
    assert!(png("no picture", 1.0).is_err());
    assert_eq!(timeline(&Lanes::new(), "Nothing", 60, &Look::DARK).matches("<svg").count(), 1);
}

/// The text of a terminal of so many columns and lines.
fn cells(view: &Screen<'_>, columns: u16, lines: u16) -> Vec<String> {
    let area = Rect::new(0, 0, columns, lines);
    let mut cells = Buffer::empty(area);
    screen(view, area, &mut cells);
    cells
        .content
        .chunks(usize::from(columns))
        .map(|row| row.iter().map(|cell| cell.symbol()).collect())
        .collect()
}

#[test]
fn a_terminal_of_any_size_shows_what_it_can() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |z, radius| Shape::Sphere { at: [0.0, 0.0, z], radius };
    let maul = b.attack(Attack::melee("maul").timeline(1, 3, 2).hitbox(ball(1.0, 0.4)).damage(crush, 3, 3));
    let mason = b.template(Template::new("mason", masons, 9).part(Part::new("trunk", ball(0.0, 0.4))));
    let hound = b.template(Template::new("hound", beasts, 9).part(Part::new("skull", ball(0.0, 0.4))));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.keep_ledgers(true);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.5]));
    fight.orders().start(odo, maul);
    let (mut run, mut transcript, mut accounts) = (Run::new(), Transcript::new(), Accounts::new());
    run.names.call(odo, "odo");
    for _ in 0..2 {
        fight.tick().unwrap();
        run.observe(&fight).show(&mut [&mut transcript, &mut accounts]);
    }
    let frame = Frame::of(&run.tick(&fight));
    let told: &[Told] = transcript.told();
    let view = Screen {
        title: "Two",
        frame: &frame,
        clock: (2, 2, 60),
        told,
        chosen: told.iter().position(|told| told.mark == "*").unwrap(),
        shown: None,
        wanted: "",
        typed: None,
        note: None,
        scrolled: 0,
        account: accounts.all().first(),
        state: None,
        playing: false,
        speed: 1.0,
        from_the_side: false,
        help: false,
        colours: false,
    };
    let text = cells(&view, 100, 30);
    for words in [
        "0.02 s of 0.03, tick 2",
        "■ odo",
        "▲ hound",
        "██████",
        "6/9",
        "> ",
        "odo hits hound",
        "base",
        "3.0000",
    ] {
        assert!(text.iter().any(|line| line.contains(words)), "{words}: {text:#?}");
    }
    // The map has both where they stand: the hound is behind odo, and behind is down.
    let row = |words: &str| {
        text.iter().position(|line| line.chars().take(57).collect::<String>().contains(words)).unwrap()
    };
    assert!(row("▲hound") > row("■odo"), "{text:#?}");
    // How everything stands, in place of the details; where there is little room, in place of the feed.
    let table = StateTable::of(&run.tick(&fight));
    for (columns, lines, gone) in [(100, 30, "3.0000"), (60, 20, "odo hits hound")] {
        let text = cells(&Screen { state: Some(&table), ..view }, columns, lines);
        for words in
            ["how everything stands", "the encounter: round 1", "odo: life standing", "health 6 of 9"]
        {
            assert!(text.iter().any(|line| line.contains(words)), "{words}: {text:#?}");
        }
        assert!(!text.iter().any(|line| line.contains(gone)), "{gone}: {text:#?}");
    }
    for columns in 1..=120 {
        for lines in [1, 2, 5, 6, 7, 12, 20, 40] {
            for help in [false, true] {
                let text = cells(&Screen { help, ..view }, columns, lines);
                assert_eq!(text.len(), usize::from(lines));
                if columns >= 40 && lines >= 12 && !help {
                    assert!(
                        text.iter().any(|line| line.contains("odo hits")),
                        "{columns} x {lines}: {text:#?}"
                    );
                }
            }
        }
    }
}
