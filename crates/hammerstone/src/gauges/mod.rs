//! What blows and statuses fill and empty: health, shields, the points of parts. It stands below both.

mod health;
mod parts;
mod shields;

pub(crate) use health::{maximum_of, refresh_maximum, set_health};
pub(crate) use parts::wear_part;
pub(crate) use shields::{lapse_shield, lapse_shields, plain_points, raise_shield};
