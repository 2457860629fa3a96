//! `work NAME`: runs a fixed world, to count its instructions.

fn main() {
    let name = std::env::args().nth(1).unwrap_or_default();
    match testkit::worlds::run(&name, |tick| tick()) {
        Some(work) => println!("{name}: {:016x}", work.checksum),
        None => {
            eprintln!("there is no world `{name}`; there are {}", testkit::worlds::WORLDS.join(", "));
            std::process::exit(2);
        }
    }
}
