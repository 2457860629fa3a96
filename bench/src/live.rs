//! What a page costs a running game: `cargo run --profile measured --bin live` in this folder.

use std::hint::black_box;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use hammerstone_bench::{Crowd, Sort, interleaved};
use hammerstone_live::Live;

/// Half a minute of so many.
const COMBATANTS: usize = 1000;
const TICKS: u32 = 300;

fn run(mut after: impl FnMut(&Crowd)) {
    let mut crowd = Crowd::new(Sort::Rush, COMBATANTS);
    for _ in 0..TICKS {
        crowd.orders();
        crowd.tick();
        after(&crowd);
    }
    black_box(crowd);
}

/// Asks as an open page does.
fn asks(address: &str) {
    let rest = address.strip_prefix("http://").unwrap_or_default();
    let (host, path) = rest.split_once('/').unwrap_or_default();
    if let Ok(mut stream) = TcpStream::connect(host) {
        let _ = write!(stream, "GET /{path}state HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n");
        let _ = stream.read_to_end(&mut Vec::new());
    }
}

fn main() {
    let times = interleaved(
        9,
        &mut [
            &mut || run(|_| ()),
            &mut || {
                let mut live = Live::bind("127.0.0.1:0").expect("the loopback address is there");
                run(|crowd| {
                    if !live.held() {
                        live.observe(&crowd.fight);
                    }
                });
            },
            &mut || {
                let mut live = Live::bind("127.0.0.1:0").expect("the loopback address is there");
                let (address, done) = (live.address().to_owned(), Arc::new(AtomicBool::new(false)));
                asks(&address);
                let over = Arc::clone(&done);
                let page = std::thread::spawn(move || {
                    while !over.load(Ordering::Relaxed) {
                        asks(&address);
                        std::thread::sleep(Duration::from_millis(250));
                    }
                });
                run(|crowd| live.observe(&crowd.fight));
                done.store(true, Ordering::Relaxed);
                page.join().expect("it ends");
            },
        ],
    );
    let [bare, alone, watched] = times[..] else { unreachable!("three were measured") };
    println!(
        "{COMBATANTS} combatants, {TICKS} ticks, seconds: bare {bare:.3}, no page {alone:.3}, a page {watched:.3}"
    );
    println!("no page ÷ bare: {:.3}, a page ÷ bare: {:.2}", alone / bare, watched / bare);
}
