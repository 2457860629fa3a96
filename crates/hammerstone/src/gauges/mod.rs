//! What blows and statuses fill and empty: health, shields, the points of parts. It stands below both.

mod health;
mod parts;
mod points;
mod readiness;
mod shields;

pub(crate) use health::{maximum_of, pooled, refresh_maximum, set_health, share_pool, standing_sharers};
pub(crate) use parts::wear_part;
pub(crate) use points::{
    Gauging, Reached, begin_gauges, change_gauges, let_through, refresh_gauges, set_gauge,
};
pub(crate) use readiness::{begin_cooldown, cancelled_by, is_ready, spend_start};
pub(crate) use shields::{lapse_own_shields, lapse_shield, lapse_shields, plain_points, raise_shield};
