//! Stage 2: the clocks of running swings. Windows close and open; swings whose time is up end.

use crate::event::{Event, SwingEnd, Why};
use crate::lifecycle;
use crate::work::Work;

pub(super) fn advance(work: &mut Work<'_>) {
    for index in 0..work.state.swings.len() {
        let swing = &mut work.state.swings[index];
        if swing.ended.is_some() {
            continue;
        }
        let begins = swing.clock;
        swing.clock += 1;
        let attack = work.rules.attack(swing.attack);
        let window = attack.open_window(begins).map_or(0, |window| window + 1);
        if window != swing.window {
            lifecycle::close_window(work, index, Why::Done);
            if window > 0 {
                let swing = &mut work.state.swings[index];
                swing.window = window;
                let (subject, attack, swing) = (swing.attacker, swing.attack, swing.id);
                work.publish(Event::AttackOpened { subject, attack, swing, window });
            }
        }
        if begins >= attack.total {
            lifecycle::end_swing(work, index, SwingEnd::Done);
        }
    }
}
