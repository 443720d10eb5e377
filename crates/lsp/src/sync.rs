//! The files that are open, and every edit in them.

use lsp_types::{
    DidChangeTextDocumentParams, DidCloseTextDocumentParams, DidOpenTextDocumentParams,
    TextDocumentContentChangeEvent,
};

use crate::{
    desk::{Desk, Open},
    place::{Counts, Lines, key, path_of},
};

pub(crate) fn opened(desk: &mut Desk, params: DidOpenTextDocumentParams) {
    let document = params.text_document;
    let Some(path) = path_of(&document.uri).map(|path| key(&path)) else {
        let uri = document.uri.as_str();
        desk.log(&format!("{uri} is no file on this machine: save it as a .stoi file to have it checked"));
        return;
    };
    desk.draft.look_again();
    desk.draft.look_at(&path);
    desk.draft.edit(&path, Some(document.text.clone()));
    let open = Open { uri: document.uri, text: document.text, version: document.version };
    desk.open.insert(path, open);
    desk.changed();
}

pub(crate) fn changed(desk: &mut Desk, params: DidChangeTextDocumentParams) {
    let document = params.text_document;
    let counts = desk.counts;
    let Some((path, open)) = path_of(&document.uri)
        .map(|path| key(&path))
        .and_then(|path| Some((path.clone(), desk.open.get_mut(&path)?)))
    else {
        let uri = document.uri.as_str();
        desk.log(&format!("{uri} was changed, but not opened before"));
        return;
    };
    open.version = document.version;
    params.content_changes.into_iter().for_each(|change| edit(&mut open.text, change, counts));
    let text = open.text.clone();
    desk.draft.edit(&path, Some(text));
    desk.changed();
}

/// One edit. Where it ends before it begins, what stands between the two is replaced all the same.
fn edit(text: &mut String, change: TextDocumentContentChangeEvent, counts: Counts) {
    let Some(range) = change.range else {
        *text = change.text;
        return;
    };
    let lines = Lines::of(text, counts);
    let (one, two) = (lines.byte(range.start) as usize, lines.byte(range.end) as usize);
    let (start, end) = (floor(text, one.min(two)), floor(text, one.max(two)));
    text.replace_range(start..end, &change.text);
}

/// The place itself, or the start of the letter that it is inside of.
fn floor(text: &str, mut at: usize) -> usize {
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

pub(crate) fn closed(desk: &mut Desk, params: &DidCloseTextDocumentParams) {
    let Some(path) = path_of(&params.text_document.uri).map(|path| key(&path)) else { return };
    if desk.open.remove(&path).is_some() {
        desk.draft.edit(&path, None);
        desk.draft.look_again();
        desk.changed();
    }
}

pub(crate) fn disk_changed(desk: &mut Desk) {
    desk.draft.look_again();
    desk.changed();
}
