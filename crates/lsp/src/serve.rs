//! A conversation from its first message to its last.

use std::{
    io::{BufRead, Write},
    panic::{AssertUnwindSafe, catch_unwind},
    sync::mpsc,
};

use stoicheon_core::Catalogue;
use stoicheon_files::Wiring;

use crate::{
    server::Server,
    transport::{self, Incoming},
};

/// Why a conversation ended before the editor said that it ends.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ServeError {
    /// The editor is gone, or does not take what is written.
    #[error("the editor can no longer be reached: {0}")]
    Lost(#[from] std::io::Error),
    /// It went without a word.
    #[error("the editor has closed the conversation without `shutdown` and `exit`")]
    Gone,
}

/// What the server waits for.
enum Event {
    Incoming(Incoming),
    /// Some wiring, and the same with what was found once it was made into a world.
    Checked(Box<(Wiring, Wiring)>),
    Gone,
}

/// Talks with an editor, until it says that the conversation ends. `catalogue` is what its wiring may speak of.
///
/// Findings are told as soon as all that has come is looked at. What is found only once a world is made of the wiring is looked for meanwhile, in a thread of its own,
/// and told afterwards; the request `stoicheon/settled` is answered once everything is told.
///
/// ```
/// use std::io::Cursor;
/// use stoicheon_core::Catalogue;
/// let message = |body: &str| format!("Content-Length: {}\r\n\r\n{body}", body.len());
/// let from = [
///     message(r#"{"jsonrpc":"2.0","id":1,"method":"initialize","params":{"processId":null,"rootUri":null,"capabilities":{}}}"#),
///     message(r#"{"jsonrpc":"2.0","id":2,"method":"shutdown"}"#),
///     message(r#"{"jsonrpc":"2.0","method":"exit"}"#),
/// ];
/// let mut to = Vec::new();
/// stoicheon_lsp::serve(Cursor::new(from.concat()), &mut to, Catalogue::built_in())?;
/// assert!(String::from_utf8(to).unwrap().contains("completionProvider"));
/// # Ok::<(), stoicheon_lsp::ServeError>(())
/// ```
///
/// # Errors
/// [`ServeError`]
pub fn serve(
    mut from: impl BufRead + Send + 'static,
    mut to: impl Write,
    catalogue: Catalogue,
) -> Result<(), ServeError> {
    let (sender, receiver) = mpsc::channel();
    let reader = sender.clone();
    // It ends when the editor closes its side, or with the process.
    std::thread::spawn(move || {
        while let Ok(Some(incoming)) = transport::read(&mut from) {
            if reader.send(Event::Incoming(incoming)).is_err() {
                return;
            }
        }
        // Nobody may be there any more to hear it.
        let _ = reader.send(Event::Gone);
    });
    let mut server = Server::new(catalogue);
    let mut is_gone = false;
    loop {
        // What has come meanwhile is looked at together: an edit that another one follows is not checked for itself.
        let mut next = None;
        if server.is_idle() {
            if is_gone {
                return Err(ServeError::Gone);
            }
            next = Some(receiver.recv().unwrap_or(Event::Gone));
        }
        while let Some(event) = next.take().or_else(|| receiver.try_recv().ok()) {
            match event {
                Event::Incoming(incoming) => server.queue(incoming),
                Event::Checked(found) => server.checked(&found.0, found.1),
                Event::Gone => is_gone = true,
            }
        }
        server.step();
        if let Some(wiring) = server.next_to_check() {
            let done = sender.clone();
            std::thread::spawn(move || {
                let checked = catch_unwind(AssertUnwindSafe(|| wiring.checked_in_place()));
                let checked = checked.unwrap_or_else(|_| wiring.clone());
                // Nobody may be there any more to hear it.
                let _ = done.send(Event::Checked(Box::new((wiring, checked))));
            });
        }
        for message in server.take_out() {
            message.write(&mut to)?;
        }
        match server.end {
            Some(true) => return Ok(()),
            Some(false) => return Err(ServeError::Gone),
            None => {}
        }
    }
}
