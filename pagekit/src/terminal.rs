//! A terminal that tests type into: keys go in as a person presses them, and what stands on the screen is waited for, never a time.

use std::io::{Read, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::{Duration, Instant};

const ENTERS: &str = "\u{1b}[?1049h";
const LEAVES: &str = "\u{1b}[?1049l";

/// How long anything may take until it stands on the screen.
const PATIENCE: Duration = Duration::from_secs(120);

/// A command in a terminal of its own; it is stopped when this is dropped.
pub struct Terminal {
    child: Child,
    keys: Option<ChildStdin>,
    output: Receiver<Vec<u8>>,
    written: Vec<u8>,
    screen: vt100::Parser,
}

/// How a command left its terminal.
pub struct Left {
    /// The exit status.
    pub status: i32,
    /// Everything that was written, with the codes for the terminal.
    pub text: String,
    /// What stood on the screen when it was left; none where the command never took the whole screen.
    pub screen: Option<String>,
}

impl Drop for Terminal {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Terminal {
    /// Starts a command line; none where no terminal can be made, which is said.
    pub fn open(line: &str, folder: &Path, [columns, rows]: [u16; 2]) -> Option<Terminal> {
        if Command::new("script").arg("--version").output().is_err() {
            eprintln!("skipped: there is no `script` here");
            return None;
        }
        let mut child = Command::new("script")
            .args(["-qec", &format!("stty cols {columns} rows {rows}; exec {line}"), "/dev/null"])
            .current_dir(folder)
            .env("TERM", "xterm-256color")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let (keys, mut from) = (child.stdin.take(), child.stdout.take().unwrap());
        let (to, output) = channel();
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count @ 1..) = from.read(&mut bytes) {
                if to.send(bytes[..count].to_vec()).is_err() {
                    return;
                }
            }
        });
        let screen = vt100::Parser::new(rows, columns, 0);
        Some(Terminal { child, keys, output, written: Vec::new(), screen })
    }

    /// Presses keys, one after the other.
    pub fn press(&mut self, keys: &str) {
        self.keys.as_mut().unwrap().write_all(keys.as_bytes()).unwrap();
    }

    /// What stands on the screen as soon as these words do.
    pub fn until(&mut self, words: &str) -> String {
        self.until_it(words, |seen| seen.contains(words))
    }

    /// What stands on the screen as soon as it fits; `wanted` says it in the message of one that never does.
    pub fn until_it(&mut self, wanted: &str, fits: impl Fn(&str) -> bool) -> String {
        let begun = Instant::now();
        loop {
            let seen = self.screen.screen().contents();
            if fits(&seen) {
                return seen;
            }
            assert!(self.reads(begun).is_ok(), "it never shows `{wanted}`: {seen}");
        }
    }

    /// Takes the next output, as long as there is patience left.
    fn reads(&mut self, begun: Instant) -> Result<(), RecvTimeoutError> {
        let bytes = self.output.recv_timeout(PATIENCE.saturating_sub(begun.elapsed()))?;
        self.screen.process(&bytes);
        self.written.extend(bytes);
        Ok(())
    }

    /// Waits until the command has ended.
    ///
    /// # Panics
    /// When it does not end, or took the whole screen and did not give it back as it was.
    pub fn left(mut self) -> Left {
        let begun = Instant::now();
        let ended = loop {
            if let Err(ended) = self.reads(begun) {
                break ended;
            }
        };
        let (rows, columns) = self.screen.screen().size();
        assert!(
            ended == RecvTimeoutError::Disconnected,
            "it does not end: {}",
            self.screen.screen().contents()
        );
        self.keys = None;
        let status = self.child.wait().unwrap().code().unwrap();
        let text = String::from_utf8_lossy(&self.written).into_owned();
        let screen = text.contains(ENTERS).then(|| {
            let (before, after) = text.split_at(text.rfind(LEAVES).expect("the screen is left"));
            let mut terminal = vt100::Parser::new(rows, columns, 0);
            terminal.process(before.as_bytes());
            assert!(terminal.screen().alternate_screen());
            let contents = terminal.screen().contents();
            terminal.process(after.as_bytes());
            assert!(!terminal.screen().alternate_screen() && !terminal.screen().hide_cursor());
            contents
        });
        Left { status, text, screen }
    }
}
