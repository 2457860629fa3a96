//! A small server of one page: on the loopback address unless told otherwise, behind a token that only the address has.

use std::fmt::Write as _;
use std::io::{Read, Write as _};
use std::net::{SocketAddr, ToSocketAddrs};
use std::sync::Arc;
use std::thread::JoinHandle;

use flate2::Compression;
use flate2::write::GzEncoder;
use thiserror::Error;
use tiny_http::{Header, Method, Request, Response};

/// What a page may send at most, in bytes.
const MOST: u64 = 64 * 1024;
/// How many requests are answered side by side.
const THREADS: usize = 3;

/// Why a server could not begin.
#[derive(Debug, Error)]
pub enum CannotServe {
    /// The address is none, or names no port.
    #[error("`{0}` is no address with a port, such as 127.0.0.1:0")]
    NoAddress(String),
    /// Others could reach it.
    #[error("{0} can be reached from other machines; `bind_anywhere` serves there")]
    NotLoopback(SocketAddr),
    /// The machine does not let it.
    #[error("nothing can be served at {address}: {why}")]
    Refused {
        /// Where it should be.
        address: SocketAddr,
        /// What the machine says.
        why: String,
    },
    /// The machine has no random numbers, of which the token is made.
    #[error("no token can be made: {0}")]
    NoToken(String),
}

/// What is asked of a site.
#[derive(Clone, Copy, Debug)]
pub struct Asked<'a> {
    /// The path below the token, without a slash before it: empty for the page itself.
    pub path: &'a str,
    /// What stands after the `?`.
    pub query: &'a str,
    /// What the page sends, if it sends something rather than asks.
    pub sent: Option<&'a [u8]>,
}

/// What a site answers.
#[derive(Debug)]
pub enum Answer {
    /// A page.
    Page(Vec<u8>),
    /// Data.
    Json(Vec<u8>),
    /// A file to keep, with its name.
    File(&'static str, Vec<u8>),
    /// What was sent was taken in, or there is no news.
    Nothing,
    /// What was asked cannot be done, and why.
    Wrong(String),
    /// There is no such thing.
    Missing,
}

/// What stands behind a [`Server`].
pub trait Site: Send + Sync + 'static {
    /// Answers one request. It may come on any of several threads.
    fn answer(&self, asked: Asked<'_>) -> Answer;
}

/// Serves a site until it is dropped, with threads of its own.
pub struct Server {
    http: Arc<tiny_http::Server>,
    address: String,
    threads: Vec<JoinHandle<()>>,
}

impl std::fmt::Debug for Server {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Server").field("address", &self.address).finish_non_exhaustive()
    }
}

impl Server {
    /// Serves at an address of this machine that others cannot reach, such as `127.0.0.1:0`: at a port that is free.
    pub fn bind(at: &str, site: Arc<dyn Site>) -> Result<Server, CannotServe> {
        let address = resolved(at)?;
        if !address.ip().is_loopback() {
            return Err(CannotServe::NotLoopback(address));
        }
        Server::serve(address, site)
    }

    /// Serves at any address. All who know the whole address, with its token, see the page and can do what it can do.
    pub fn bind_anywhere(at: &str, site: Arc<dyn Site>) -> Result<Server, CannotServe> {
        Server::serve(resolved(at)?, site)
    }

    fn serve(address: SocketAddr, site: Arc<dyn Site>) -> Result<Server, CannotServe> {
        let refused = |why: String| CannotServe::Refused { address, why };
        let token = token()?;
        let http = tiny_http::Server::http(address).map_err(|error| refused(error.to_string()))?;
        let bound = http.server_addr().to_ip().ok_or_else(|| refused("it has no port".to_owned()))?;
        let http = Arc::new(http);
        let place = Arc::new(Place { token: token.clone(), bound });
        let thread = || {
            let (http, site, place) = (Arc::clone(&http), Arc::clone(&site), Arc::clone(&place));
            std::thread::spawn(move || {
                while let Ok(request) = http.recv() {
                    respond(request, &*site, &place);
                }
            })
        };
        let threads = (0..THREADS).map(|_| thread()).collect();
        Ok(Server { http, address: format!("http://{bound}/{token}/"), threads })
    }

    /// Where a browser finds the page, with the token.
    pub fn address(&self) -> &str {
        &self.address
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // One call lets one thread go.
        self.threads.iter().for_each(|_| self.http.unblock());
        for thread in self.threads.drain(..) {
            let _ = thread.join();
        }
    }
}

fn resolved(at: &str) -> Result<SocketAddr, CannotServe> {
    let found = at.to_socket_addrs().ok().and_then(|mut all| all.next());
    found.ok_or_else(|| CannotServe::NoAddress(at.to_owned()))
}

/// 128 random bits.
fn token() -> Result<String, CannotServe> {
    let mut bytes = [0; 16];
    getrandom::fill(&mut bytes).map_err(|error| CannotServe::NoToken(error.to_string()))?;
    let mut token = String::new();
    for byte in bytes {
        let _ = write!(token, "{byte:02x}");
    }
    Ok(token)
}

/// Where the server is, and its token.
struct Place {
    token: String,
    bound: SocketAddr,
}

impl Place {
    /// Whether a request is addressed to this server by a name that is its own: pages of other sites that have their own name lead here ask by
    /// that name.
    fn is_host(&self, host: &str) -> bool {
        let own = self.bound.to_string();
        // Bound to all addresses, it is reached by one of them.
        let by_number = host.parse::<SocketAddr>().is_ok_and(|host| {
            host.port() == self.bound.port() && (self.bound.ip().is_unspecified() || host == self.bound)
        });
        let local = self.bound.ip().is_loopback() && host == format!("localhost:{}", self.bound.port());
        host == own || by_number || local
    }
}

fn header<'r>(request: &'r Request, name: &'static str) -> Option<&'r str> {
    request.headers().iter().find(|header| header.field.equiv(name)).map(|header| header.value.as_str())
}

fn respond(mut request: Request, site: &dyn Site, place: &Place) {
    let host = header(&request, "Host").unwrap_or_default().to_owned();
    // A page of another site may send here, but does not hide where it comes from.
    let is_own = |origin: &str| origin.strip_prefix("http://").is_some_and(|origin| origin == host);
    let foreign = header(&request, "Origin").is_some_and(|origin| !is_own(origin));
    if !place.is_host(&host) || foreign {
        return send(
            request,
            403,
            "text/plain",
            b"this page is asked for by its own address only".to_vec(),
            &[],
        );
    }
    let url = request.url().to_owned();
    let (path, query) = url.split_once('?').unwrap_or((&url, ""));
    let Some(path) = path.strip_prefix('/').and_then(|path| path.strip_prefix(place.token.as_str())) else {
        return send(request, 404, "text/plain", b"there is no such page".to_vec(), &[]);
    };
    let Some(path) = path.strip_prefix('/') else {
        let to = format!("/{}/", place.token);
        return send(request, 301, "text/plain", Vec::new(), &[("Location", &to)]);
    };
    let sent = match request.method() {
        Method::Get => None,
        Method::Post => {
            let mut body = Vec::new();
            let read = request.as_reader().take(MOST + 1).read_to_end(&mut body);
            if read.is_err() || body.len() as u64 > MOST {
                return send(request, 413, "text/plain", b"that is too much".to_vec(), &[]);
            }
            Some(body)
        }
        _ => return send(request, 405, "text/plain", b"ask, or send".to_vec(), &[]),
    };
    match site.answer(Asked { path, query, sent: sent.as_deref() }) {
        Answer::Page(page) => {
            send(request, 200, "text/html; charset=utf-8", page, &[("Content-Security-Policy", PAGE)])
        }
        Answer::Json(json) => send(request, 200, "application/json", json, &[]),
        Answer::File(name, bytes) => {
            let disposition = format!("attachment; filename=\"{name}\"");
            send(request, 200, "application/octet-stream", bytes, &[("Content-Disposition", &disposition)]);
        }
        Answer::Nothing => send(request, 204, "text/plain", Vec::new(), &[]),
        Answer::Wrong(why) => send(request, 400, "text/plain; charset=utf-8", why.into_bytes(), &[]),
        Answer::Missing => send(request, 404, "text/plain", b"there is no such page".to_vec(), &[]),
    }
}

/// What a page may do: run what stands in it, and ask where it came from; nothing else.
const PAGE: &str = "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; connect-src 'self'; \
     base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

fn send(request: Request, status: u16, sort: &str, body: Vec<u8>, more: &[(&str, &str)]) {
    let takes = header(&request, "Accept-Encoding").is_some_and(|encodings| encodings.contains("gzip"));
    let (body, packed) = match takes && body.len() > 4096 {
        true => (packed(&body), true),
        false => (body, false),
    };
    let fixed = [
        ("Content-Type", sort),
        ("Cache-Control", "no-store"),
        ("X-Content-Type-Options", "nosniff"),
        ("Referrer-Policy", "no-referrer"),
    ];
    let encoding = packed.then_some(("Content-Encoding", "gzip"));
    let mut response = Response::from_data(body).with_status_code(status);
    for (name, value) in fixed.iter().chain(more).copied().chain(encoding) {
        if let Ok(header) = Header::from_bytes(name, value) {
            response.add_header(header);
        }
    }
    // One who has gone needs no answer.
    let _ = request.respond(response);
}

fn packed(body: &[u8]) -> Vec<u8> {
    let mut packing = GzEncoder::new(Vec::new(), Compression::fast());
    // Into memory, where there is nothing that could fail.
    let _ = packing.write_all(body);
    packing.finish().unwrap_or_default()
}
