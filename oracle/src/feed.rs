//! Holds a feed against what always holds, knowing nothing but the feed: it does not link the library.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

/// What was found wrong: the law's number, the line's `seq`, and what it is.
pub type Wrong = (u8, u64, String);

#[derive(Default)]
struct Book {
    wrong: Vec<Wrong>,
    seq: u64,
    /// Health and what is still to come off it, by combatant.
    health: BTreeMap<String, (i64, i64)>,
    standing: BTreeSet<String>,
    deaths: BTreeSet<(String, u64)>,
    /// Policy, interval and most targets, by swing.
    policies: BTreeMap<u64, (String, u64, Option<u64>)>,
    /// The tick of the last hit by swing, target, life where each has a turn of its own, window, and group or body where these have lists of their own.
    struck: BTreeMap<(u64, String, u64, u64, u64, u64), u64>,
    refused: BTreeSet<(u64, String, String)>,
    /// Running swings that must not outlive their attacker, and those that may.
    swings: BTreeMap<u64, Option<String>>,
    contacts: BTreeMap<u64, String>,
    /// The tick in which swing and target last met.
    met: BTreeMap<(u64, String), u64>,
    applications: BTreeMap<u64, String>,
    /// Statuses that wait for their bearer's return.
    suspended: BTreeSet<u64>,
    /// Points by bearer and shield.
    shields: BTreeMap<(String, String), i64>,
    lives: BTreeMap<String, u64>,
    /// Parts that broke, by bearer and life.
    broken: BTreeSet<(String, u64, String)>,
    seen: BTreeMap<&'static str, BTreeSet<u64>>,
    hits: u64,
    refusals: u64,
    ended: bool,
    reset: bool,
    epoch: u64,
    tick: u64,
}

/// Everything that is wrong with a feed of JSON Lines. *Errors:* a line that is not an object of the feed.
pub fn check(feed: &str) -> Result<Vec<Wrong>, String> {
    let mut book = Book::default();
    let mut next = 0;
    for (number, text) in feed.lines().enumerate() {
        let line: Value =
            serde_json::from_str(text).map_err(|error| format!("line {}: {error}", number + 1))?;
        let topic = line["topic"].as_str().ok_or(format!("line {} has no topic", number + 1))?;
        book.seq = line["seq"].as_u64().ok_or(format!("line {} has no seq", number + 1))?;
        let epoch = line["epoch"].as_u64().unwrap_or(0);
        if epoch != book.epoch {
            // After a reset everything is counted anew.
            book.end_of_tick();
            let follows = book.reset && epoch == book.epoch + 1;
            book.must(follows, 0, "the epoch changes without a reset");
            book = Book { wrong: book.wrong, seq: book.seq, epoch, ..Book::default() };
            next = 0;
        }
        book.must(book.seq == next, 0, "the count of facts has a gap");
        next = book.seq + 1;
        let tick = line["tick"].as_u64().ok_or(format!("line {} has no tick", number + 1))?;
        if tick != book.tick {
            book.end_of_tick();
        }
        book.tick = tick;
        book.observe(topic, &line);
    }
    book.end_of_tick();
    book.must(book.ended, 3, "the feed has no encounter.ended");
    Ok(book.wrong)
}

fn name(line: &Value, field: &str) -> String {
    line[field].as_str().unwrap_or_default().to_owned()
}

fn number(line: &Value, field: &str) -> u64 {
    line[field].as_u64().unwrap_or(u64::MAX)
}

fn points(line: &Value, field: &str) -> i64 {
    line[field].as_i64().unwrap_or(i64::MIN)
}

impl Book {
    fn must(&mut self, holds: bool, law: u8, what: &str) {
        if !holds {
            self.wrong.push((law, self.seq, what.to_owned()));
        }
    }

    fn must_stand(&mut self, who: &str) {
        let stands = self.standing.contains(who);
        self.must(stands, 2, &format!("{who} does not stand"));
    }

    /// Whoever carries the line's swing must stand, unless it may outlive them.
    fn attacker_must_stand(&mut self, line: &Value) {
        if let Some(Some(who)) = self.swings.get(&number(line, "swing")).cloned() {
            self.must_stand(&who);
        }
    }

    /// Begins something that must end once: `what` names its sort.
    fn begins(&mut self, law: u8, what: &'static str, id: u64) {
        let new = self.seen.entry(what).or_default().insert(id);
        self.must(new, law, &format!("{what} {id} begins twice"));
    }

    fn observe(&mut self, topic: &str, line: &Value) {
        match topic {
            "combatant.joined" => {
                let who = name(line, "subject");
                self.health.insert(who.clone(), (points(line, "health"), 0));
                self.lives.insert(who.clone(), number(line, "life"));
                let new = self.standing.insert(who);
                self.must(new, 2, "joined twice");
            }
            "combatant.returned" => {
                let who = name(line, "subject");
                self.lives.insert(who.clone(), number(line, "life"));
                // Who was down stood all the time.
                let back = self.standing.insert(who) != (line["why"] == "lifted-up");
                self.must(back, 2, "returned while standing, or was lifted up while not");
            }
            "combatant.away" | "combatant.removed" => {
                self.standing.remove(&name(line, "subject"));
            }
            "attack.started" => {
                let swing = number(line, "swing");
                // What outlives its attacker may start after the attacker's death, as the child of another.
                let lives_on = line["outlives"] == true;
                let who = line["subject"].as_str().filter(|_| !lives_on).map(str::to_owned);
                if let Some(who) = &who {
                    self.must_stand(who);
                }
                self.begins(7, "swing", swing);
                self.swings.insert(swing, who);
                self.policies.insert(
                    swing,
                    (name(line, "policy"), number(line, "every"), line["max_targets"].as_u64()),
                );
            }
            "attack.opened" => self.attacker_must_stand(line),
            "attack.ended" => {
                let ran = self.swings.remove(&number(line, "swing")).is_some();
                self.must(ran, 7, "a swing ended that did not run");
            }
            "contact.met" => {
                self.met.insert((number(line, "swing"), name(line, "target")), self.tick);
                let target = name(line, "target");
                self.attacker_must_stand(line);
                self.must_stand(&target);
                self.begins(6, "contact", number(line, "contact"));
                self.contacts.insert(number(line, "contact"), target);
            }
            "contact.parted" => {
                let met = self.contacts.remove(&number(line, "contact")).is_some();
                self.must(met, 6, "a contact parted that had not met");
            }
            "hit.landed" => self.hit(line),
            "hit.refused" => {
                let (swing, gate) = (number(line, "swing"), name(line, "gate"));
                let new = self.refused.insert((swing, name(line, "target"), gate));
                self.must(new, 3, "a refusal was written twice");
                self.refusals += 1;
            }
            "heal.applied" => {
                let who = name(line, "target");
                self.must_stand(&who);
                self.health.entry(who).or_default().1 += points(line, "amount");
                self.ledger(line);
            }
            "shield.raised" => self.shield(line, 1, true),
            "shield.absorbed" => self.shield(line, -1, true),
            "shield.lapsed" => self.shield(line, -1, false),
            "part.broken" => {
                let who = name(line, "subject");
                self.must_stand(&who);
                let life = self.lives.get(&who).copied().unwrap_or_default();
                let first = self.broken.insert((who, life, name(line, "part")));
                self.must(first, 7, "a part broke twice in one life");
            }
            "hit.pushed" | "hit.staggered" => self.must_stand(&name(line, "target")),
            "hit.stopped" | "guard.broken" | "combatant.spared" => self.must_stand(&name(line, "subject")),
            "status.suspended" => {
                let application = number(line, "application");
                let new = self.applications.contains_key(&application) && self.suspended.insert(application);
                self.must(new, 7, "a status was suspended that did not run");
            }
            "status.resumed" => {
                let waited = self.suspended.remove(&number(line, "application"));
                self.must(waited, 7, "a status was resumed that was not suspended");
                self.must_stand(&name(line, "subject"));
            }
            "health.changed" => self.changed(line),
            "status.applied" => {
                let (who, application) = (name(line, "subject"), number(line, "application"));
                self.must_stand(&who);
                self.begins(7, "application", application);
                self.applications.insert(application, who);
            }
            "status.refreshed" | "status.stacked" | "status.pulsed" | "status.refused" => {
                self.must_stand(&name(line, "subject"))
            }
            "status.expired" | "status.lifted" => {
                let application = number(line, "application");
                let ran = self.applications.remove(&application).is_some();
                self.must(ran, 7, "a status ended that did not run");
                self.suspended.remove(&application);
            }
            "combatant.died" => {
                let who = name(line, "subject");
                self.must_stand(&who);
                let first = self.deaths.insert((who.clone(), number(line, "life")));
                self.must(first, 2, "died twice in one life");
                self.standing.remove(&who);
                let empty = self.health.get(&who).is_some_and(|&(health, _)| health == 0);
                self.must(empty, 4, "died with health left");
            }
            "encounter.ended" => self.end(line),
            "encounter.reset" => {
                self.reset = true;
                self.must(self.standing.is_empty(), 8, "someone stands after a reset");
                self.nothing_runs();
            }
            "health.crossed" | "leader.lost" => self.must_stand(&name(line, "subject")),
            _ if topic.starts_with("damage.dealt.") => self.dealt(line),
            _ => {}
        }
    }

    fn hit(&mut self, line: &Value) {
        let (swing, target) = (number(line, "swing"), name(line, "target"));
        self.must_stand(&target);
        self.attacker_must_stand(line);
        let Some((policy, every, most)) = self.policies.get(&swing).cloned() else {
            return self.must(false, 1, "a hit of a swing whose policy is not known");
        };
        let window = if policy == "window" { number(line, "window") } else { 0 };
        let own = |field: &str| line[field].as_u64().unwrap_or(0);
        let life = if policy == "life" { number(line, "life") } else { 0 };
        let key = (swing, target, life, window, own("group"), own("body"));
        let before = self.struck.insert(key, self.tick);
        // An entry is a contact that met since; of what is reported there is none, and a tick without lies between two stays.
        let entered =
            |before: u64| self.met.get(&(swing, name(line, "target"))).is_none_or(|met| *met > before);
        let allowed = before.is_none_or(|before| match policy.as_str() {
            "interval" => self.tick - before >= every,
            "entry" => self.tick - before >= every.max(2) && entered(before),
            _ => false,
        });
        self.must(allowed, 1, "struck more often than the policy allows");
        if let Some(most) = most {
            let targets: BTreeSet<&String> =
                self.struck.keys().filter(|(of, ..)| *of == swing).map(|(_, target, ..)| target).collect();
            let within = targets.len() as u64 <= most;
            self.must(within, 1, "struck more targets than a swing may");
        }
        self.hits += 1;
    }

    fn dealt(&mut self, line: &Value) {
        let who = name(line, "target");
        self.must_stand(&who);
        let amount = points(line, "amount");
        self.health.entry(who).or_default().1 -= amount;
        self.ledger(line);
    }

    /// Each line of the ledger begins where the one before ended, and the last ends at the amount.
    fn ledger(&mut self, line: &Value) {
        let amount = points(line, "amount");
        let mut before: Option<&str> = None;
        for row in line["ledger"].as_array().into_iter().flatten() {
            let joins = before.is_none_or(|before| Some(before) == row["before"].as_str());
            self.must(joins, 4, "a ledger line does not begin where the last ended");
            before = row["after"].as_str();
        }
        let ends = before.is_none_or(|last| last == format!("{amount}.0000"));
        self.must(ends, 4, "a ledger does not end at the amount");
    }

    /// A shield gains or loses points, and never has less than none.
    fn shield(&mut self, line: &Value, sign: i64, stands: bool) {
        let who = name(line, "subject");
        if stands {
            self.must_stand(&who);
        }
        let has = self.shields.entry((who, name(line, "shield"))).or_default();
        *has += sign * points(line, "amount");
        let sound = *has >= 0;
        self.must(sound, 4, "a shield lost more than it had");
    }

    fn changed(&mut self, line: &Value) {
        let who = name(line, "subject");
        let (from, to, max) = (points(line, "from"), points(line, "to"), points(line, "max"));
        let (health, due) = self.health.insert(who.clone(), (to, 0)).unwrap_or_default();
        self.must(from == health, 4, "health changed from what it was not");
        self.must((0..=max).contains(&to), 4, "health is out of its bounds");
        if line["why"] != "return" {
            self.must_stand(&who);
        }
        // Maxima, returns and what others take from a shared pool are adjustments, of which nothing is owed.
        let adjusted = matches!(line["why"].as_str(), Some("return" | "maximum" | "pool"));
        let adds_up = if adjusted { due == 0 } else { health + due == to };
        self.must(adds_up, 4, "health does not add up");
    }

    fn end(&mut self, line: &Value) {
        self.ended = true;
        let by_gate = line["refusals"].as_object();
        let refused: u64 = by_gate.into_iter().flatten().filter_map(|(_, count)| count.as_u64()).sum();
        let (attempts, hits) = (number(line, "attempts"), number(line, "hits"));
        self.must(attempts == hits + refused, 3, "attempts are not hits and refusals");
        self.must(hits == self.hits, 3, "the hits are not those that landed");
        self.must(self.refusals <= refused, 3, "more refusals were written than counted");
        self.nothing_runs();
    }

    fn nothing_runs(&mut self) {
        self.must(self.swings.is_empty(), 7, "a swing has no end");
        self.must(self.applications.is_empty(), 7, "a status has no end");
        self.must(self.contacts.is_empty(), 6, "a contact has no end");
    }

    /// Nothing is left open for one who does not stand, and everything dealt has come off health.
    fn end_of_tick(&mut self) {
        let standing = &self.standing;
        let carriers = self.swings.values().flatten();
        let running = self.applications.iter().filter(|(id, _)| !self.suspended.contains(id));
        let statuses_of = running.map(|(_, bearer)| bearer);
        let shielded = self.shields.iter().filter(|(_, points)| **points != 0).map(|((who, _), _)| who);
        let all_stand = carriers.chain(statuses_of).chain(shielded).chain(self.contacts.values());
        let all_stand = { all_stand }.all(|who| standing.contains(who));
        self.must(all_stand, 2, "something goes on for one who does not stand");
        let settled = self.health.values().all(|&(_, due)| due == 0);
        self.must(settled, 4, "something was dealt and health did not change");
    }
}
