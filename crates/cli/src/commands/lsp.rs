//! `lsp`: the language server, over standard input and output.

use super::{new, preview};
use crate::outcome::{Failure, Outcome, Result};
use bathygram_lsp::{Setup, StartPreview};
use bathygram_preview::{Options, Preview};

/// Run the language server for editors, over standard input and output
///
/// It speaks the Language Server Protocol 3.17. `docs/editors.md` says how editors start it.
#[derive(clap::Args)]
#[command(after_help = "Example:\n  bathygram lsp")]
pub(crate) struct Arguments {
    /// Standard input and output, which is all that there is; for editors that say so
    #[arg(long)]
    stdio: bool,
}

/// Runs the command.
///
/// # Errors
/// If the connection to the editor breaks.
pub(crate) fn run(_: &Arguments) -> Result {
    let (connection, threads) = lsp_server::Connection::stdio();
    let folder = std::env::current_dir()?;
    let preview: StartPreview = Box::new(|project, editor| {
        let (export, starters) = (preview::export(), new::starters());
        let options = Options { project, only: Vec::new(), export, starters, port: 0, editor: Some(editor) };
        Preview::start(options).map_err(|why| why.to_string())
    });
    let served = bathygram_lsp::serve(&connection, Setup { folder, preview });
    drop(connection);
    served.map_err(|why| Failure::Outside(anyhow::anyhow!("the connection to the editor broke: {why}")))?;
    threads.join()?;
    Ok(Outcome::Done)
}
