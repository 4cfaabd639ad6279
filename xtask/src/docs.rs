//! `cargo xtask docs`: what the documents show is made by the program: pictures of examples, answers to
//! errors, the schema of the config.

use crate::{root, run};
use anyhow::{Context, Result};
use std::path::Path;
use std::process::{Command, Stdio};

/// The pages whose examples are drawn.
const PAGES: [&str; 6] = [
    "README.md",
    "docs/start.md",
    "docs/gallery.md",
    "docs/language.md",
    "docs/notation.md",
    "docs/example-architectures.md",
];

/// Makes it all from scratch.
pub(crate) fn make() -> Result<()> {
    run("cargo", &["build", "--quiet", "-p", "bathygram-cli"])?;
    let program = crate::target().join("debug/bathygram").canonicalize()?;
    let pictures = root().join("docs/pictures");
    if pictures.exists() {
        std::fs::remove_dir_all(&pictures)?;
    }
    std::fs::create_dir_all(&pictures)?;
    for page in PAGES {
        let page = root().join(page);
        let text = std::fs::read_to_string(&page)?;
        std::fs::write(&page, examples(&program, &text, &pictures.canonicalize()?)?)?;
    }
    let schema = Command::new(&program).args(["init", "--schema"]).output()?;
    std::fs::write(root().join("docs/bathygram.schema.json"), schema.stdout)?;
    Ok(())
}

/// Draws the examples of a page; gives the page with the answers to its errors.
fn examples(program: &Path, text: &str, pictures: &Path) -> Result<String> {
    let folder = std::env::temp_dir().join(format!("bathygram-docs-{}", std::process::id()));
    std::fs::create_dir_all(&folder)?;
    let example = folder.join("example.bathy");
    let mut out = String::new();
    let mut lines = text.lines();
    while let Some(line) = lines.next() {
        out.push_str(line);
        out.push('\n');
        let body = |lines: &mut std::str::Lines<'_>| -> String {
            lines.take_while(|l| *l != "```").map(|l| format!("{l}\n")).collect()
        };
        match line {
            "```bathy" | "```bathy wrong" => {
                let written = body(&mut lines);
                std::fs::write(&example, &written)?;
                if line == "```bathy" {
                    let mut drawing = Command::new(program);
                    drawing.args(["-q", "render", "example.bathy", "--out"]).arg(pictures).current_dir(&folder);
                    let status = drawing.stdout(Stdio::null()).status().context("the program starts")?;
                    anyhow::ensure!(status.success(), "this example is wrong:\n{written}");
                }
                out.push_str(&written);
                out.push_str("```\n");
            }
            // A file that the next example takes from.
            beside if beside.starts_with("```bathy file ") => {
                let written = body(&mut lines);
                std::fs::write(folder.join(&beside["```bathy file ".len()..]), &written)?;
                out.push_str(&written);
                out.push_str("```\n");
            }
            "```text" => {
                body(&mut lines);
                let check = Command::new(program).args(["check", "--no-pictures"]).current_dir(&folder).output()?;
                out.push_str(String::from_utf8_lossy(&check.stdout).trim_end());
                out.push_str("\n```\n");
            }
            _ => {}
        }
    }
    std::fs::remove_dir_all(&folder)?;
    Ok(out)
}
