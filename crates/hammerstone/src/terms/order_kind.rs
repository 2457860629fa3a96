//! Which order it is, without what it says.

/// Hands the list of orders, each with its name in files and in the feed, to another macro.
macro_rules! with_order_kinds {
    ($then:ident) => {
        $then! {
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
            PoseParts "pose-parts",
            GuideHitboxes "guide-hitboxes",
            Label "label",
            MoveObstacle "move-obstacle",
            PlaceObstacle "place-obstacle",
            StopBody "stop-body",
            ShowPart "show-part",
            Resize "resize",
            NameObstacle "name-obstacle",
            FlagCombatant "flag-combatant",
            CountCombatant "count-combatant",
            ChangeGauge "change-gauge",
            ChangeTeam "change-team",
            Request "request",
            StopWaves "stop-waves",
            ScaleTime "scale-time",
            Transform "transform",
            LetGo "let-go",
            Pause "pause",
            Resume "resume",
            SpawnKeyed "spawn-keyed",
            Rewind "rewind",
            TellChoice "tell-choice",
            OpenObstacle "open-obstacle",
        }
    };
}
pub(crate) use with_order_kinds;

macro_rules! declare {
    ($($kind:ident $name:literal,)*) => {
        /// Which order it is, without what it says.
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        #[non_exhaustive]
        pub enum OrderKind {
            $(
                #[doc = concat!("`Order::", stringify!($kind), "`.")]
                $kind,
            )*
        }

        impl OrderKind {
            /// The order's name in the feed.
            pub const fn name(self) -> &'static str {
                match self {
                    $(OrderKind::$kind => $name,)*
                }
            }
        }
    };
}

with_order_kinds!(declare);
