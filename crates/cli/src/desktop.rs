//! What the desktop shows: addresses in its browser, files in the program that it has for them.

use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

/// A program that shows something either ends at once with an error, or has passed it on by then.
const SOON: Duration = Duration::from_millis(1500);

/// Shows an address or a file; says whether the desktop took it.
pub(crate) fn show(target: &str) -> bool {
    let ways: &[&[&str]] = match std::env::consts::OS {
        "macos" => &[&["open"]],
        "windows" => &[&["rundll32", "url.dll,FileProtocolHandler"]],
        _ => &[&["xdg-open"], &["gio", "open"]],
    };
    ways.iter().any(|way| {
        let mut command = Command::new(way[0]);
        command.args(&way[1..]).arg(target).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        command.spawn().is_ok_and(takes)
    })
}

/// Whether a program that was started takes what it is to show.
fn takes(mut child: Child) -> bool {
    let begun = Instant::now();
    while begun.elapsed() < SOON {
        match child.try_wait() {
            Ok(Some(status)) => return status.success(),
            Ok(None) => std::thread::sleep(Duration::from_millis(20)),
            Err(_) => return false,
        }
    }
    true
}
