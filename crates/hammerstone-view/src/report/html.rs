//! The page around the data: HTML, style and script in one file.

use std::fmt::Display;
use std::io::{self, BufWriter, Write};

use base64::prelude::BASE64_STANDARD;
use base64::write::EncoderWriter;
use flate2::Compression;
use flate2::write::GzEncoder;
use serde::Serialize;

use super::Heading;
use super::data::{Data, Details};
use crate::look::Look;

const BODY: &str = include_str!("page.html");
const STYLE: &str = include_str!("page.css");
/// The parts of the script: one closure, in this order.
const SCRIPT: [&str; 8] = [
    include_str!("script/data.js"),
    include_str!("script/page.js"),
    include_str!("script/field.js"),
    include_str!("script/timeline.js"),
    include_str!("script/events.js"),
    include_str!("script/inspector.js"),
    include_str!("script/live.js"),
    include_str!("script/start.js"),
];

/// Text in a page.
struct Plain<'a>(&'a str);

impl Display for Plain<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        for letter in self.0.chars() {
            match letter {
                '&' => f.write_str("&amp;")?,
                '<' => f.write_str("&lt;")?,
                '>' => f.write_str("&gt;")?,
                '"' => f.write_str("&quot;")?,
                letter => write!(f, "{letter}")?,
            }
        }
        Ok(())
    }
}

/// The page without the data: everything until the data, and everything after it.
fn begin(out: &mut impl Write, title: &str) -> io::Result<()> {
    write!(
        out,
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{}</title>\n<style>\n\
         :root {{ color-scheme: light dark; {} }}\n@media (prefers-color-scheme: dark) {{ :root {{ {} }} }}\n{STYLE}</style>\n\
         </head>\n<body>\n",
        Plain(title),
        Look::LIGHT.variables(),
        Look::DARK.variables(),
    )
}

fn script(out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "<script>\n\"use strict\";\n(() => {{")?;
    SCRIPT.iter().try_for_each(|part| out.write_all(part.as_bytes()))?;
    writeln!(out, "}})();\n</script>\n</body>\n</html>")
}

/// Writes the page of a fight that is over: its data is in it, packed.
pub(super) fn page(
    out: &mut impl Write,
    heading: &Heading<'_>,
    data: &Data<'_>,
    details: &Details<'_>,
) -> io::Result<()> {
    begin(out, heading.title)?;
    writeln!(out, "{BODY}\n<noscript>{}</noscript>", Plain(&data.in_words()))?;
    block(out, "data", data)?;
    block(out, "details", details)?;
    script(out)
}

/// Data that the script unpacks.
fn block(out: &mut impl Write, id: &str, data: &impl Serialize) -> io::Result<()> {
    write!(out, "<script type=\"application/octet-stream\" id=\"{id}\">")?;
    let packed = GzEncoder::new(EncoderWriter::new(&mut *out, &BASE64_STANDARD), Compression::fast());
    // Data comes in pieces of a few bytes, and packing is slow with those.
    let mut pieces = BufWriter::with_capacity(1 << 16, packed);
    serde_json::to_writer(&mut pieces, data).map_err(io::Error::from)?;
    pieces.into_inner().map_err(|error| error.into_error())?.finish()?.finish()?;
    writeln!(out, "</script>")
}

/// The page of a fight that goes on, as HTML: without data, which its script asks for where the page came from. It asks `state` several times
/// a second; where that names another version, it asks `data`, which is what [`Reporter::write_data`](crate::Reporter::write_data) writes.
pub fn page_shell(title: &str) -> Vec<u8> {
    let mut page = Vec::new();
    // Into memory, where there is nothing that could fail.
    let _ = begin(&mut page, title)
        .and_then(|()| writeln!(page, "{BODY}\n<noscript>This page needs a script.</noscript>"))
        .and_then(|()| script(&mut page));
    page
}
