//! How contacts part.

use crate::event::{ContactParted, Why};
use crate::ids::*;
use crate::state::{Contact, Swing};
use crate::statuses;
use crate::work::Work;

/// Parts the contacts of the swing at `index` with one who leaves. They stay in the list, over, until it is next gone through, so that
/// this costs the same however many others the swing touches.
pub(crate) fn part_from(work: &mut Work<'_>, index: usize, target: CombatantId, why: Why) {
    let mut parted = std::mem::take(&mut work.rooms.known.parted);
    let Work { state, rooms, .. } = &mut *work;
    let touches = |contact: &Contact| !contact.over;
    while let Some(place) = rooms.known.contacts.find(&state.contacts, &state.swings, index, target, touches)
    {
        parted.push(*state.contacts.get(place));
        state.contacts.get_mut(place).over = true;
    }
    work.rooms.known.parted = parted;
    tell_parted(work, index, why);
}

/// Parts those contacts of the swing at `index` for which `goes` says so, in the order in which they met.
pub(crate) fn part_contacts(work: &mut Work<'_>, index: usize, why: Why, goes: impl Fn(&Contact) -> bool) {
    let mut parted = std::mem::take(&mut work.rooms.known.parted);
    let Work { state, rooms, .. } = &mut *work;
    let swing = &mut state.swings[index];
    let gone = |contact: &Contact| contact.over || goes(contact);
    for contact in state.contacts.items(swing.contacts).filter(|contact| gone(contact)) {
        rooms.known.contacts.remove(&state.contacts, swing.id, contact.target, |contact| !gone(contact));
    }
    state.contacts.take(&mut swing.contacts, gone, |contact| {
        if !contact.over {
            parted.push(contact);
        }
    });
    work.rooms.known.parted = parted;
    tell_parted(work, index, why);
}

/// Publishes the contacts of the swing at `index` that have parted, and lifts the auras that they kept.
fn tell_parted(work: &mut Work<'_>, index: usize, why: Why) {
    let mut parted = std::mem::take(&mut work.rooms.known.parted);
    parted.sort_unstable_by_key(|contact| contact.id);
    let Swing { id: swing, attacker, attack, .. } = work.state.swings[index];
    for &Contact { id, target, part, .. } in &parted {
        work.log.publish(ContactParted { contact: id, swing, attacker, target, part, why });
    }
    if !work.rules.attack(attack).aura.is_empty() {
        for &Contact { target, .. } in &parted {
            let Work { state, rooms, .. } = &mut *work;
            let touches = |contact: &Contact| !contact.over;
            let left = rooms.known.contacts.find(&state.contacts, &state.swings, index, target, touches);
            if left.is_none() {
                statuses::lift_tied(work, target, swing, why);
            }
        }
    }
    parted.clear();
    work.rooms.known.parted = parted;
}
