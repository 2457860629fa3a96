//! How contacts part.

use crate::event::{ContactParted, Why};
use crate::ids::*;
use crate::state::{Contact, Swing, SwingAt};
use crate::statuses;
use crate::work::Work;

use super::Known;

/// Parts the contacts of the swing at `index` with one who leaves. They stay in the list, over, until it is next gone through, so that
/// this costs the same however many others the swing touches.
pub(crate) fn part_from(work: &mut Work<'_>, index: SwingAt, target: CombatantId, why: Why) {
    let Work { state, rooms, .. } = &mut *work;
    let Known { contacts, parted, .. } = &mut rooms.known;
    let first = parted.len();
    let touches = |contact: &Contact| !contact.over;
    while let Some(place) = contacts.find(&state.contacts, &state.swings, index, target, touches) {
        parted.push(*state.contacts.get(place));
        state.contacts.get_mut(place).over = true;
    }
    tell_parted(work, index, why, first);
}

/// Parts those contacts of the swing at `index` for which `goes` says so, in the order in which they met.
pub(crate) fn part_contacts(work: &mut Work<'_>, index: SwingAt, why: Why, goes: impl Fn(&Contact) -> bool) {
    let Work { state, rooms, .. } = &mut *work;
    let Known { contacts, parted, .. } = &mut rooms.known;
    let first = parted.len();
    let swing = &mut state.swings[index];
    let gone = |contact: &Contact| contact.over || goes(contact);
    for contact in state.contacts.items(swing.contacts).filter(|contact| gone(contact)) {
        contacts.remove(&state.contacts, swing.id, contact.target, |contact| !gone(contact));
    }
    state.contacts.take(&mut swing.contacts, gone, |contact| {
        if !contact.over {
            parted.push(contact);
        }
    });
    tell_parted(work, index, why, first);
}

/// Publishes the contacts of the swing at `index` that have parted, those from `first` on, and lifts the auras that they kept. A lift
/// may part others, which then come after these in the buffer and are gone from it again.
fn tell_parted(work: &mut Work<'_>, index: SwingAt, why: Why, first: usize) {
    let Swing { id: swing, attacker, attack, .. } = work.state.swings[index];
    let parted = &mut work.rooms.known.parted;
    parted[first..].sort_unstable_by_key(|contact| contact.id);
    for &Contact { id, hitbox, target, part, since, seen, .. } in &parted[first..] {
        let lasted = seen + 1 - since;
        let parted =
            ContactParted { contact: id, swing, attack, hitbox, attacker, target, part, lasted, why };
        work.log.publish(parted);
    }
    if !work.rules.attack(attack).aura.is_empty() {
        for place in first..work.rooms.known.parted.len() {
            let Work { state, rooms, .. } = &mut *work;
            let Known { contacts, parted, .. } = &mut rooms.known;
            let target = parted[place].target;
            let touches = |contact: &Contact| !contact.over;
            let left = contacts.find(&state.contacts, &state.swings, index, target, touches);
            if left.is_none() {
                statuses::lift_tied(work, target, swing, why);
            }
        }
    }
    work.rooms.known.parted.truncate(first);
}
