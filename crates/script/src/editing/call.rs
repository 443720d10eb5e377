//! What something takes in parentheses, and which of that is being written.

use smol_str::SmolStr;

use super::tokens::solid;
use crate::{
    load::Loaded,
    syntax::{self, SyntaxKind as K, Token},
};

/// Something that takes values in parentheses, while they are written.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Call {
    /// What it is called.
    pub name: SmolStr,
    /// What it is for.
    pub about: String,
    /// What it takes: the names, and the types.
    pub takes: Vec<(SmolStr, String)>,
    /// Which of them is being written; past the last one if there is one too many.
    pub at: usize,
}

impl Loaded {
    /// What is being given values at a byte of one of its files: a signal, an effect, a routine, a kit, a function.
    ///
    /// ```
    /// use stoicheon_core::Catalogue;
    /// let text = "effect say(words: text, loud: boolean)\non started { perform say(\"Mind the gap\", ";
    /// let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
    /// let call = loaded.call(0, text.len() as u32).unwrap();
    /// assert_eq!((call.name.as_str(), call.takes[call.at].0.as_str()), ("say", "loud"));
    /// ```
    pub fn call(&self, file: u32, byte: u32) -> Option<Call> {
        let source = self.sources().get(file)?;
        let tree = syntax::parse(source.text(), file).tree;
        let tokens = tree.descendants_with_tokens().filter_map(rowan::NodeOrToken::into_token);
        let before = tokens.take_while(|token| u32::from(token.text_range().start()) < byte);
        let before: Vec<Token> = before.filter(|token| !token.kind().is_trivia()).collect();
        // Inside the last of them, as far as it is no bracket.
        let (mut depth, mut commas, mut named) = (0_usize, 0, None);
        let mut open = None;
        for (at, token) in before.iter().enumerate().rev() {
            match token.kind() {
                K::RightParen => depth += 1,
                K::LeftParen if depth == 0 => {
                    open = Some(at);
                    break;
                }
                K::LeftParen => depth -= 1,
                K::Comma if depth == 0 => commas += 1,
                K::Colon if depth == 0 && commas == 0 && named.is_none() => {
                    named =
                        at.checked_sub(1).and_then(|at| before.get(at)).map(|name| name.text().to_owned());
                }
                K::LeftBrace | K::RightBrace | K::Semicolon => return None,
                _ => {}
            }
        }
        let open = open?;
        let name = before.get(open.checked_sub(1)?)?;
        if name.kind() != K::Word || !touches(name, &before[open]) {
            return None;
        }
        // `add weir as pool(…)` gives values to `weir`.
        let used = name.parent().filter(|node| node.kind() == K::Use);
        let kit = used.as_ref().and_then(|used| solid(used).nth(1));
        let callee = kit.as_ref().unwrap_or(name);
        let completion = self.complete(file, callee.text_range().start().into())?;
        let offer = completion.offers.into_iter().find(|offer| offer.name == callee.text())?;
        if offer.takes.is_empty() {
            return None;
        }
        let by_name = named.and_then(|named| offer.takes.iter().position(|(name, _)| *name == named));
        let at = by_name.filter(|_| kit.is_some()).unwrap_or(commas);
        Some(Call { name: offer.name, about: offer.about, takes: offer.takes, at })
    }
}

/// Nothing stands between the two.
fn touches(one: &Token, two: &Token) -> bool {
    one.text_range().end() == two.text_range().start()
}
