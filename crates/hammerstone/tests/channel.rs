//! The channel for a host's own events: order, once, owners, keys, and safety while delivering.

use hammerstone::channel::{Channel, EndOf, Handle, Listening, Reached};
use proptest::prelude::*;

#[derive(Default)]
struct World {
    heard: Vec<(usize, u32)>,
    handles: Vec<Handle>,
}

fn told(name: usize) -> Listening<u32, World> {
    Listening::new(move |world: &mut World, event: &u32, _| world.heard.push((name, *event)))
}

#[test]
fn publishing_to_nobody_is_safe() {
    let mut channel: Channel<u32, World> = Channel::new(4);
    let reached = channel.publish(&mut World::default(), 1);
    assert_eq!(reached, Reached { events: 1, calls: 0, cut: 0 });
    channel.end(EndOf::Key(9));
    channel.end(EndOf::Owner(9));
}

#[test]
fn order_once_owner_and_key() {
    let (mut channel, mut world) = (Channel::new(4), World::default());
    channel.listen(told(0));
    channel.listen(told(1).priority(5));
    channel.listen(told(2).once());
    channel.listen(told(3).owned_by(7));
    channel.listen(told(4).keyed(1).only(|event| event.is_multiple_of(2)));
    channel.listen(told(5).keyed(1));
    channel.publish(&mut world, 1);
    assert_eq!(std::mem::take(&mut world.heard), [(1, 1), (0, 1), (2, 1), (3, 1)]);
    channel.end(EndOf::Owner(7));
    channel.end(EndOf::Owner(7));
    channel.publish(&mut world, 2);
    assert_eq!(std::mem::take(&mut world.heard), [(1, 2), (0, 2), (4, 2)]);
    channel.end(EndOf::Key(1));
    assert_eq!(channel.listeners(), 2);
}

#[test]
fn what_is_asked_for_while_delivering_takes_place_afterwards() {
    let (mut channel, mut world) = (Channel::new(4), World::default());
    let ends = channel.listen(Listening::new(|world: &mut World, event: &u32, replies| {
        world.heard.push((0, *event));
        // Itself, its neighbour; and a newcomer, who hears nothing of what was there before.
        replies.end(EndOf::Handle(world.handles[0]));
        replies.end(EndOf::Handle(world.handles[1]));
        replies.listen(told(2));
        replies.publish(event + 1);
    }));
    let neighbour = channel.listen(told(1));
    world.handles = vec![ends, neighbour];
    let reached = channel.publish(&mut world, 1);
    assert_eq!(world.heard, [(0, 1), (1, 1), (2, 2)]);
    assert_eq!(reached, Reached { events: 2, calls: 3, cut: 0 });
}

#[test]
fn a_loop_is_cut() {
    let (mut channel, mut world) = (Channel::new(5), World::default());
    channel.listen(Listening::new(|world: &mut World, event: &u32, replies| {
        world.heard.push((0, *event));
        replies.publish(event + 1);
    }));
    assert_eq!(channel.publish(&mut world, 0), Reached { events: 6, calls: 6, cut: 1 });
}

proptest! {
    #![proptest_config(testkit::cases(256))]

    /// Against a list that is sorted anew each time.
    #[test]
    fn listeners_agree_with_a_simple_model(steps in proptest::collection::vec((0u8..5, 0u64..6, -2i16..3), 1..60)) {
        let (mut channel, mut world) = (Channel::new(3), World::default());
        let mut model: Vec<(usize, i16, u64, u64, bool)> = Vec::new();
        for (i, (step, number, priority)) in steps.into_iter().enumerate() {
            match step {
                0 | 1 => {
                    let new = told(i).priority(priority).keyed(number).owned_by(number % 3);
                    channel.listen(if step == 1 { new.once() } else { new });
                    if model.iter().all(|known| known.2 != number) {
                        model.push((i, priority, number, number % 3, step == 1));
                    }
                }
                2 => {
                    channel.end(EndOf::Key(number));
                    model.retain(|known| known.2 != number);
                }
                3 => {
                    channel.end(EndOf::Owner(number % 3));
                    model.retain(|known| known.3 != number % 3);
                }
                _ => {
                    channel.publish(&mut world, i as u32);
                    let mut expected = model.clone();
                    expected.sort_by_key(|known| std::cmp::Reverse(known.1));
                    let expected: Vec<_> = expected.iter().map(|known| (known.0, i as u32)).collect();
                    prop_assert_eq!(std::mem::take(&mut world.heard), expected);
                    model.retain(|known| !known.4);
                }
            }
            prop_assert_eq!(channel.listeners(), model.len());
        }
    }
}
