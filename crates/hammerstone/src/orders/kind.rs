//! Which order it is, without what it says.

use super::Order;

macro_rules! order_kinds {
    ($($kind:ident $name:literal,)*) => {
        /// Which order it is, without what it says.
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        #[non_exhaustive]
        pub enum OrderKind {
            $(
                #[doc = concat!("[`Order::", stringify!($kind), "`]")]
                $kind,
            )*
        }

        impl OrderKind {
            pub(super) const fn of(order: &Order) -> OrderKind {
                match order {
                    $(Order::$kind { .. } => OrderKind::$kind,)*
                }
            }

            /// The order's name in the feed.
            pub const fn name(self) -> &'static str {
                match self {
                    $(OrderKind::$kind => $name,)*
                }
            }
        }
    };
}

order_kinds! {
    Spawn "spawn",
    Move "move",
    Teleport "teleport",
    Start "start",
    SpawnAttack "spawn-attack",
    Marker "marker",
    Release "release",
    Guide "guide",
    AddObstacle "add-obstacle",
    RemoveObstacle "remove-obstacle",
    Cancel "cancel",
    Report "report",
    Damage "damage",
    Heal "heal",
    Apply "apply",
    Lift "lift",
    LiftFamily "lift-family",
    Change "change",
    Unchange "unchange",
    SetMaximum "set-maximum",
    RaiseShield "raise-shield",
    SendAway "send-away",
    Return "return",
    Remove "remove",
    Subscribe "subscribe",
    Unsubscribe "unsubscribe",
    End "end",
    Publish "publish",
    SetFlag "set-flag",
    Count "count",
    Score "score",
    Attach "attach",
    Follow "follow",
    StartWaves "start-waves",
    NextRound "next-round",
    Say "say",
    Fire "fire",
    Reset "reset",
}
