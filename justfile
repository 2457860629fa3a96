# Recipes for people and for CI. `just` lists them.

_list:
    @just --list

# Everything that CI runs
ci:
    .ci/run

# All tests
test:
    cargo test --workspace

# Format, lints, docs
lint:
    cargo fmt --all --check
    cargo clippy --workspace --all-targets --all-features -- -D warnings
    RUSTDOCFLAGS="-D warnings" cargo doc --workspace --no-deps --all-features

# The shipped fight
demo:
    cargo run --release -- demo

# The shipped scenarios
scenarios:
    cargo run --release -- test scenarios
