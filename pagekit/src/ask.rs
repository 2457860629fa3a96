//! Asks a server of ours, over a plain connection.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::Duration;

/// Asks a server for something, as its page does or as another would: the status, the head, and the body.
pub fn ask(
    address: &str,
    method: &str,
    path: &str,
    headers: &[(&str, &str)],
    body: &str,
) -> (u16, String, Vec<u8>) {
    let rest = address.strip_prefix("http://").unwrap();
    let (host, root) = rest.split_once('/').unwrap();
    let mut stream = TcpStream::connect(host).unwrap();
    stream.set_read_timeout(Some(Duration::from_secs(120))).unwrap();
    let path = if path.starts_with('/') { path.to_owned() } else { format!("/{root}{path}") };
    let mut text =
        format!("{method} {path} HTTP/1.1\r\nConnection: close\r\nContent-Length: {}\r\n", body.len());
    if !headers.iter().any(|(name, _)| *name == "Host") {
        text += &format!("Host: {host}\r\n");
    }
    headers.iter().for_each(|(name, value)| text += &format!("{name}: {value}\r\n"));
    stream.write_all(format!("{text}\r\n{body}").as_bytes()).unwrap();
    let mut answer = Vec::new();
    // One that is sent away may be cut off while it still sends.
    let _ = stream.read_to_end(&mut answer);
    let end = answer.windows(4).position(|four| four == b"\r\n\r\n").unwrap_or(answer.len());
    let head = String::from_utf8_lossy(&answer[..end]).into_owned();
    let status = head.split(' ').nth(1).and_then(|status| status.parse().ok()).unwrap_or(0);
    let body = answer.get(end + 4..).unwrap_or_default().to_vec();
    let body = if head.contains("chunked") { joined(&body) } else { body };
    (status, head, body)
}

fn joined(mut chunks: &[u8]) -> Vec<u8> {
    let mut all = Vec::new();
    while let Some(end) = chunks.windows(2).position(|two| two == b"\r\n") {
        let size = usize::from_str_radix(std::str::from_utf8(&chunks[..end]).unwrap(), 16).unwrap();
        if size == 0 {
            break;
        }
        all.extend_from_slice(&chunks[end + 2..end + 2 + size]);
        chunks = &chunks[end + 4 + size..];
    }
    all
}
