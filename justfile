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

# An array of shards on a real scheduler of one node (Debian's slurm-wlm), with a task that is killed
cluster:
    cargo test --workspace --test cluster -- --nocapture real_scheduler

# A fuzz target (ruleset, scenario, save, game) for so many seconds, then its corpus made small
fuzz target seconds:
    cd fuzz && cargo fuzz run -s none {{target}} -- -max_total_time={{seconds}} -timeout=25 -rss_limit_mb=4096
    cd fuzz && cargo fuzz cmin -s none {{target}}

# Where the corpora of the fuzz targets begin: the shipped files, saves of a fight, a few games
seeds:
    cargo run -p hostile --bin seeds
