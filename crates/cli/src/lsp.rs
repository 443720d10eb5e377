//! `stoicheon lsp`

use std::io::{self, BufReader, IsTerminal};

use stoicheon_files as files;
use stoicheon_lsp::serve;

use crate::{
    args::LspArgs,
    out::{Misuse, Outcome, note},
};

pub(crate) fn lsp(args: &LspArgs) -> Result<Outcome, Misuse> {
    let catalogue = files::catalogue(args.catalogue.as_deref())?;
    if io::stdin().is_terminal() {
        note("an editor starts this command and talks with it; docs/editors.md says how it is set up");
    }
    let from = BufReader::with_capacity(1 << 16, io::stdin());
    match serve(from, io::stdout().lock(), catalogue) {
        Ok(()) => Ok(Outcome::Good),
        Err(lost) => Err(Misuse::Served(lost)),
    }
}
