//! The quarry at night, a small game in the terminal: move Odo, swing his maul, guard, throw wedges; hounds come in waves, and then their keeper.
//!
//! `cargo run -p hammerstone-hosts --example night`: arrow keys or wasd move, space swings, g guards, t throws, q ends it. With `--record FILE` it
//! writes a log that every command of `hammerstone` reads, `--live` serves its page, and `--bot SECONDS` plays by itself.
//!
//! The game has its own loop at sixty ticks a second, its own movement, and its own picture. The fight comes from a file, and so do the minds of the others.

use std::collections::VecDeque;
use std::fs::File;
use std::io::BufWriter;
use std::time::{Duration, Instant};

use hammerstone::event::{CombatantDied, DamageDealt, Event as Told, HitRefused, Said};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone_live::Live;
use hammerstone_record::{LogOptions, Recorder};
use hammerstone_scenario::{Options, Play, Scenario};
use ratatui::Frame;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEventKind};
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Style};
use ratatui::symbols::Marker;
use ratatui::text::Line;
use ratatui::widgets::canvas::{Canvas, Circle, Line as Stroke};
use ratatui::widgets::{Block, Gauge, Paragraph};

type Failure = Box<dyn std::error::Error>;

const FIGHT: &str = include_str!("night.toml");
const RULES: &str = include_str!("night.rules.toml");
/// Metres a second, and how long one press of a key goes on, in ticks: a terminal does not tell when a key is let go.
const SPEED: f32 = 4.0;
const PRESS: u32 = 9;
/// Half the width and half the depth of the yard, in metres.
const YARD: [f32; 2] = [9.0, 6.5];

/// What the game lends to its hooks: what is heard and read beside the picture.
#[derive(Default)]
struct Screen {
    words: VecDeque<String>,
    kills: u32,
}

impl Screen {
    fn say(&mut self, text: String) {
        self.words.push_back(text);
        while self.words.len() > 6 {
            self.words.pop_front();
        }
    }
}

/// Hooks that only watch: sounds as words, and lines that are said.
fn hooks() -> (Hooks<Screen>, Vec<hammerstone::ids::HookId>) {
    let mut hooks = Hooks::new();
    let sounds = hooks.watch("sounds", |screen: &mut Screen, heard| {
        let rules = heard.view.rules();
        let name = |who: CombatantId| {
            heard
                .view
                .template(who)
                .and_then(|template| rules.template_name(template))
                .unwrap_or("it")
                .to_owned()
        };
        match *heard.event {
            Told::DamageDealt(DamageDealt { target, amount, critical, .. }) => {
                let sound = if critical { "CRACK" } else { "thud" };
                screen.say(format!("{sound}: the {} loses {amount}", name(target)));
            }
            Told::HitRefused(HitRefused { gate, target, .. }) if gate.name() == "invulnerable" => {
                screen.say(format!("whoosh: past the {}", name(target)));
            }
            Told::CombatantDied(CombatantDied { subject, .. }) => {
                screen.kills += 1;
                screen.say(format!("the {} falls", name(subject)));
            }
            Told::Said(Said { spoken, .. }) => {
                screen.say(format!("\"{}\"", rules.spoken(&spoken, name)));
            }
            _ => {}
        }
    });
    (hooks, vec![sounds])
}

/// What the player wants.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Key {
    Move(i8, i8),
    Maul,
    Guard,
    Throw,
    Quit,
}

fn key_of(code: KeyCode) -> Option<Key> {
    Some(match code {
        KeyCode::Left | KeyCode::Char('a') => Key::Move(-1, 0),
        KeyCode::Right | KeyCode::Char('d') => Key::Move(1, 0),
        KeyCode::Up | KeyCode::Char('w') => Key::Move(0, 1),
        KeyCode::Down | KeyCode::Char('s') => Key::Move(0, -1),
        KeyCode::Char(' ') => Key::Maul,
        KeyCode::Char('g') => Key::Guard,
        KeyCode::Char('t') => Key::Throw,
        KeyCode::Char('q') | KeyCode::Esc => Key::Quit,
        _ => return None,
    })
}

/// The player's body, which the game moves by itself.
struct Player {
    who: CombatantId,
    way: [f32; 2],
    until: u32,
    attacks: [AttackId; 3],
}

impl Player {
    fn of(rules: &Ruleset, who: CombatantId) -> Result<Player, Failure> {
        let find = |name: &str| rules.find_attack(name).ok_or_else(|| format!("there is no attack `{name}`"));
        Ok(Player { who, way: [0.0; 2], until: 0, attacks: [find("maul")?, find("guard")?, find("wedge")?] })
    }

    fn press(&mut self, fight: &mut Encounter, key: Key) {
        let start = match key {
            Key::Move(x, z) => {
                (self.way, self.until) = ([f32::from(x), f32::from(z)], fight.view().tick() + PRESS);
                return;
            }
            Key::Maul => self.attacks[0],
            Key::Guard => self.attacks[1],
            Key::Throw => self.attacks[2],
            Key::Quit => return,
        };
        fight.orders().start(self.who, start);
    }

    /// A step of the game's own movement: along boulders, and not while something else moves the body.
    fn step(&self, fight: &mut Encounter) {
        let view = fight.view();
        let Some(pose) = view.pose(self.who).filter(|_| view.life(self.who) == Life::Standing) else {
            return;
        };
        if view.tick() >= self.until || view.moves_on(self.who) > 0 || view.is_stunned(self.who) {
            return;
        }
        let swings = view.swings_of(self.who).any(|swing| swing.busy);
        let step = SPEED / 60.0 * if swings { 0.3 } else { 1.0 };
        let [x, z] = self.way;
        let mut at = pose.at;
        at[0] = (at[0] + x * step).clamp(-YARD[0], YARD[0]);
        at[2] = (at[2] + z * step).clamp(-YARD[1], YARD[1]);
        let chest = |at: [f32; 3]| Pose::at([at[0], 1.0, at[2]]);
        let body = Shape::Sphere { at: [0.0; 3], radius: 0.35 };
        let blocked = hammerstone::geometry::Moving::new(body, chest(pose.at), chest(at)).is_ok_and(|way| {
            fight
                .first_solid(&way)
                .is_some_and(|touch| touch.toi < 1.0 && touch.normal[0] * x + touch.normal[2] * z < 0.0)
        });
        let at = if blocked { pose.at } else { at };
        let facing = x.atan2(z).to_degrees();
        fight.orders().move_to(self.who, Pose::at(at).facing(Axis::Y, facing));
    }
}

/// What a machine presses: it goes for the nearest, strikes when it can, and guards now and then.
fn bot(fight: &Encounter, player: &Player) -> Option<Key> {
    let view = fight.view();
    let me = view.pose(player.who)?.at;
    let foes = view
        .combatants()
        .filter(|&who| view.life(who) == Life::Standing && view.team(who) != view.team(player.who));
    let way = |who| view.pose(who).map(|pose| [pose.at[0] - me[0], pose.at[2] - me[2]]);
    let far = |way: [f32; 2]| way[0].hypot(way[1]);
    let [x, z] = foes.filter_map(way).min_by(|a, b| far(*a).total_cmp(&far(*b)))?;
    let along = |x: f32| if x.abs() < 0.4 { 0 } else { x.signum() as i8 };
    let facing = view.pose(player.who)?.direction([0.0, 0.0, 1.0]);
    let ahead = facing[0] * x + facing[2] * z > 0.7 * far([x, z]);
    Some(match (view.tick() % 47, far([x, z])) {
        (0, _) => Key::Guard,
        (_, distance) if distance < 1.9 && ahead => Key::Maul,
        (23, distance) if distance > 4.0 && ahead => Key::Throw,
        _ => Key::Move(along(x), along(z)),
    })
}

/// One picture: the yard from above, bars, words.
fn draw(frame: &mut Frame<'_>, fight: &Encounter, player: &Player, screen: &Screen, live: Option<&str>) {
    let [yard, side] = Layout::horizontal([Constraint::Min(40), Constraint::Length(34)]).areas(frame.area());
    draw_yard(frame, yard, fight, player);
    let [health, wind, rest] =
        Layout::vertical([Constraint::Length(3), Constraint::Length(3), Constraint::Min(8)]).areas(side);
    let view = fight.view();
    let bar = |title: &'static str, (now, most): (i64, i64), colour| {
        let share = now.max(0) as f64 / most.max(1) as f64;
        let gauge = Gauge::default().block(Block::bordered().title(title)).ratio(share.min(1.0));
        gauge.label(format!("{now} of {most}")).gauge_style(Style::new().fg(colour))
    };
    frame.render_widget(bar("Odo", view.health(player.who).unwrap_or((0, 100)), Color::Blue), health);
    let breath = view.gauges(player.who).next().map_or((0, 100), |(_, now, most)| (now, most));
    frame.render_widget(bar("wind", breath, Color::Cyan), wind);
    let rules = view.rules();
    let toll = rules.find_score("toll").and_then(|toll| view.score(toll)).unwrap_or(0);
    let mut lines =
        vec![Line::from(format!("toll {toll}   {:.0} s", f64::from(view.tick()) / 60.0)), Line::default()];
    lines.extend(screen.words.iter().map(|words| Line::from(words.as_str())));
    lines.push(Line::default());
    lines.push(Line::from("wasd move · space maul"));
    lines.push(Line::from("g guard · t throw · q end"));
    lines.extend(live.map(|address| Line::from(format!("page: {address}"))));
    frame.render_widget(Paragraph::new(lines).block(Block::bordered()), rest);
}

fn draw_yard(frame: &mut Frame<'_>, area: Rect, fight: &Encounter, player: &Player) {
    let (view, scene) = (fight.view(), fight.scene());
    let canvas = Canvas::default()
        .block(Block::bordered().title("The quarry at night"))
        .marker(Marker::Braille)
        .x_bounds([-f64::from(YARD[0]) - 1.0, f64::from(YARD[0]) + 1.0])
        .y_bounds([-f64::from(YARD[1]) - 1.0, f64::from(YARD[1]) + 4.0]);
    let canvas = canvas.paint(|pen| {
        let circle = |x: f32, z: f32, radius: f32, color| Circle {
            x: x.into(),
            y: z.into(),
            radius: radius.into(),
            color,
        };
        for (_, solid) in fight.level().solids() {
            if let hammerstone::geometry::Obstacle::Sphere { at, radius } = solid {
                pen.draw(&circle(at[0], at[2], radius, Color::DarkGray));
            }
        }
        for who in view.combatants() {
            let Some(pose) = view.pose(who) else { continue };
            let [x, _, z] = pose.at;
            let stands = view.life(who) == Life::Standing;
            let colour = match (stands, who == player.who) {
                (false, _) => Color::DarkGray,
                (true, true) => Color::Blue,
                (true, false) => Color::Red,
            };
            let wide = if view.health(who).is_some_and(|(_, most)| most > 120) { 0.6 } else { 0.35 };
            pen.draw(&circle(x, z, wide, colour));
            let [u, _, v] = pose.direction([0.0, 0.0, 1.0]);
            let ahead = |at: f32, way: f32| f64::from(at + way * (wide + 0.4));
            pen.draw(&Stroke { x1: x.into(), y1: z.into(), x2: ahead(x, u), y2: ahead(z, v), color: colour });
        }
        for who in view.combatants().filter(|&who| view.life(who) == Life::Standing && who != player.who) {
            let (Some(pose), Some((now, most))) = (view.pose(who), view.health(who)) else { continue };
            let name = view.template(who).and_then(|template| view.rules().template_name(template));
            let words = format!("{} {now}/{most}", name.unwrap_or_default());
            pen.print((pose.at[0] - 1.0).into(), (pose.at[2] + 1.0).into(), words);
        }
        // What strikes just now.
        for hitbox in scene.hitboxes().filter(|hitbox| hitbox.open) {
            let shape = hitbox.moving.at(1.0);
            if let Shape::Capsule { from, to, .. } = shape {
                let color = Color::Yellow;
                pen.draw(&Stroke {
                    x1: from[0].into(),
                    y1: from[2].into(),
                    x2: to[0].into(),
                    y2: to[2].into(),
                    color,
                });
            } else if let Shape::Sphere { at, radius } = shape {
                pen.draw(&circle(at[0], at[2], radius, Color::Yellow));
            }
        }
    });
    frame.render_widget(canvas, area);
}

/// What the command line asks for.
#[derive(Default)]
struct Asked {
    record: Option<String>,
    live: bool,
    bot: Option<f64>,
}

fn asked() -> Result<Asked, Failure> {
    let (mut asked, mut words) = (Asked::default(), std::env::args().skip(1));
    while let Some(word) = words.next() {
        match word.as_str() {
            "--record" => asked.record = Some(words.next().ok_or("--record needs a file")?),
            "--live" => asked.live = true,
            "--bot" => asked.bot = Some(words.next().map_or(Ok(2.0), |text| text.parse())?),
            _ => {
                return Err(format!(
                    "there is no option {word}; there are --record FILE, --live, --bot SECONDS"
                )
                .into());
            }
        }
    }
    // Without a terminal only the bot can play, and there is nothing to see.
    Ok(asked)
}

fn main() -> Result<(), Failure> {
    let asked = asked()?;
    let open =
        |_: hammerstone_scenario::Wanted<'_>| Ok(("night.rules.toml".to_owned(), RULES.as_bytes().to_vec()));
    let scenario = Scenario::read("night.toml", FIGHT, &open).map_err(|unusable| unusable.text())?;
    let log = asked.record.as_ref().map(File::create).transpose()?.map(BufWriter::new);
    let mut recorder = None;
    let options = LogOptions { title: scenario.title.clone(), ..LogOptions::at_rate(60) };
    // With ledgers, so that a page can take blows apart.
    let how = Options { ledgers: asked.live, ..Options::default() };
    let mut play = Play::prepared(&scenario, how, |fight| {
        recorder = log.map(|log| Recorder::begin(fight, log, &options));
    });
    let odo = play.combatant("odo").ok_or("odo is there")?;
    let mut player = Player::of(&scenario.rules.ruleset, odo)?;
    let (hooks, watching) = hooks();
    for &hook in &watching {
        play.encounter.orders().subscribe(hook, Listen::all());
    }
    if let Some(recorder) = &mut recorder {
        play.named().for_each(|(named, name)| recorder.name(named, name));
        recorder.name_hooks(&hooks);
    }
    let mut live = if asked.live { Some(Live::bind("127.0.0.1:0")?) } else { None };
    if let Some(live) = &mut live {
        live.title(&scenario.title);
        live.name(odo, "odo");
    }
    let sees = std::io::IsTerminal::is_terminal(&std::io::stdout());
    let mut terminal = if sees { Some(ratatui::try_init()?) } else { None };
    let mut screen = Screen::default();
    let ended = night(
        &mut play,
        &mut player,
        &hooks,
        &mut screen,
        (&mut recorder, &mut live),
        terminal.as_mut(),
        asked.bot,
    );
    if terminal.is_some() {
        ratatui::try_restore()?;
    }
    ended?;
    if let Some(recorder) = recorder {
        recorder.finish()?;
    }
    let rules = &scenario.rules.ruleset;
    let outcome = play.encounter.outcome().and_then(|outcome| rules.outcome_name(outcome)).unwrap_or("left");
    println!(
        "{outcome} after {:.1} s, {} fell",
        f64::from(play.encounter.view().tick()) / 60.0,
        screen.kills
    );
    Ok(())
}

type Beside<'a> = (&'a mut Option<Recorder<BufWriter<File>>>, &'a mut Option<Live>);

/// The game's own loop: keys, a tick, a picture, and a pause until the next.
fn night(
    play: &mut Play<'_>,
    player: &mut Player,
    hooks: &Hooks<Screen>,
    screen: &mut Screen,
    (recorder, live): Beside<'_>,
    mut terminal: Option<&mut ratatui::DefaultTerminal>,
    plays_itself: Option<f64>,
) -> Result<(), Failure> {
    let tick = Duration::from_secs(1) / 60;
    let mut due = Instant::now();
    loop {
        while terminal.is_some() && event::poll(Duration::ZERO)? {
            let Event::Key(pressed) = event::read()? else { continue };
            match key_of(pressed.code).filter(|_| pressed.kind != KeyEventKind::Release) {
                Some(Key::Quit) => return Ok(()),
                Some(key) => player.press(&mut play.encounter, key),
                None => {}
            }
        }
        // A page that holds the game stops it here.
        if !live.as_mut().is_some_and(Live::held) {
            if let Some(seconds) = plays_itself {
                if f64::from(play.encounter.view().tick()) >= seconds * 60.0 {
                    return Ok(());
                }
                if let Some(key) = bot(&play.encounter, player) {
                    player.press(&mut play.encounter, key);
                }
            }
            player.step(&mut play.encounter);
            let went_on = play.tick_by(|fight| match recorder {
                Some(recorder) => recorder.tick_with(fight, hooks, screen),
                None => fight.tick_with(hooks, screen),
            })?;
            play.encounter.confirm(hooks, screen);
            if let Some(live) = live.as_mut() {
                live.observe(&play.encounter);
            }
            if !went_on {
                return Ok(());
            }
        }
        if let Some(terminal) = &mut terminal {
            let address = live.as_ref().map(Live::address);
            terminal.draw(|frame| draw(frame, &play.encounter, player, screen, address))?;
            due += tick;
            std::thread::sleep(due.saturating_duration_since(Instant::now()));
        }
    }
}
