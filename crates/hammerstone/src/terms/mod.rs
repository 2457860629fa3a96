//! Plain words that facts, orders, rulesets and the state share, below all of them.

mod host_value;
mod life;
mod listen;
mod order_kind;
mod refusal;
mod spoken;
mod tempo;
mod wave_state;

pub(crate) use host_value::HostTopic;
pub use host_value::{HostValue, Text, ValueSort};
pub use life::Life;
pub use listen::{Listen, Topical};
pub use order_kind::OrderKind;
pub(crate) use order_kind::with_order_kinds;
pub use refusal::{Definition, NEVER, Quantity, Refusal, SwingTrait};
pub use spoken::Spoken;
pub(crate) use tempo::{FASTEST, NORMAL};
pub use wave_state::WaveState;
