//! Nothing but examples: hosts that need another crate. See the folder `examples`.
