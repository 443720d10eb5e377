//! Formatting: the same tokens, set as everybody sets them. Lines stay as they were broken; comments stay where they
//! are.

use rowan::NodeOrToken;

use crate::{
    diagnostic::Diagnostic,
    syntax::{self, SyntaxKind as K, Token},
};

/// A text, set as everybody sets it: two blanks for each brace around, two more for a line that goes on with the one
/// before, one blank between words, at most one empty line. Lines end as the first one does. Formatting twice changes nothing more.
///
/// ```
/// let text = "on  rung{perform bell( strokes )}";
/// assert_eq!(stoicheon_script::format(text).unwrap(), "on rung { perform bell(strokes) }\n");
/// ```
///
/// # Errors
/// The faults of a text that does not follow the grammar; it is not touched then.
pub fn format(text: &str) -> Result<String, Vec<Diagnostic>> {
    let parsed = syntax::parse(text, 0);
    if !parsed.errors.is_empty() {
        return Err(parsed.errors);
    }
    let mut setter = Setter::default();
    // The first line shows which line ends its writer uses.
    let is_crlf = text.find('\n').is_some_and(|end| text[..end].ends_with('\r'));
    for element in parsed.tree.descendants_with_tokens() {
        if let NodeOrToken::Token(token) = element {
            setter.token(&token);
        }
    }
    let set = setter.finish();
    Ok(if is_crlf { set.replace('\n', "\r\n") } else { set })
}

/// The words a line begins with that goes on with the one before.
const CONTINUES: [&str; 24] = [
    "by", "when", "order", "cooldown", "delay", "once", "times", "while", "at", "facing", "tags", "and",
    "or", "is", "inside", "where", "over", "ease", "to", "within", "in", "as", "tagged", "per",
];

/// Whether a statement that begins with that name, on a line of its own, could be taken for more of the one before.
pub(crate) fn may_go_on(word: &str) -> bool {
    CONTINUES.contains(&word) || matches!(word, "not" | "carries" | "of" | "about" | "for" | "along")
}

#[derive(Default)]
struct Setter {
    out: String,
    /// How many braces are open.
    braces: usize,
    parens: usize,
    /// How many line ends came since the last token.
    newlines: usize,
    last: Option<(K, bool)>,
    /// The line under way goes on with the one before.
    continued: bool,
    /// The last token needs something after it.
    open_ended: bool,
}

impl Setter {
    fn token(&mut self, token: &Token) {
        match token.kind() {
            K::Space => return,
            K::Newline => {
                self.newlines += 1;
                return;
            }
            _ => {}
        }
        let kind = token.kind();
        if kind == K::RightBrace {
            self.braces = self.braces.saturating_sub(1);
        }
        self.space_before(token);
        self.out.push_str(token.text().trim_end());
        match kind {
            K::LeftBrace => self.braces += 1,
            K::LeftParen => self.parens += 1,
            K::RightParen => self.parens = self.parens.saturating_sub(1),
            _ => {}
        }
        let sign = kind == K::Minus
            && token.parent().is_some_and(|parent| matches!(parent.kind(), K::Unary | K::Order));
        self.open_ended = is_operator(kind)
            || kind == K::Word && matches!(token.text(), "and" | "or" | "not" | "when" | "until");
        self.last = Some((kind, sign));
        self.newlines = 0;
    }

    fn space_before(&mut self, token: &Token) {
        let kind = token.kind();
        let Some((last, after_sign)) = self.last else { return };
        if self.newlines > 0 {
            let tight = last == K::LeftBrace || kind == K::RightBrace;
            let empty = self.newlines > 1 && !tight;
            self.out.push_str(if empty { "\n\n" } else { "\n" });
            self.continued = self.goes_on(token);
            let indent = self.braces + self.parens + usize::from(self.continued);
            self.out.extend(std::iter::repeat_n("  ", indent));
            return;
        }
        let opens_list =
            || token.parent().is_some_and(|parent| matches!(parent.kind(), K::Args | K::Fields | K::Count));
        let touches = matches!(kind, K::RightParen | K::Comma | K::Semicolon | K::Colon | K::Dot)
            || matches!(last, K::LeftParen | K::Dot)
            || after_sign
            || (kind == K::LeftParen && last != K::Text && opens_list())
            || (kind == K::RightBrace && last == K::LeftBrace);
        if !touches {
            self.out.push(' ');
        }
    }

    fn goes_on(&self, token: &Token) -> bool {
        if self.parens > 0 {
            return false;
        }
        let clause = || {
            let kinds =
                token.parent_ancestors().take_while(|node| node.kind() != K::Block).map(|node| node.kind());
            // Within a part, a setting may have the name of a clause.
            let mut kinds = kinds;
            !kinds.any(|kind| kind == K::Part)
        };
        match token.kind() {
            _ if self.open_ended && token.kind() != K::Comment => true,
            K::Word => CONTINUES.contains(&token.text()) && clause() && !begins_statement(token),
            kind => is_operator(kind),
        }
    }

    fn finish(mut self) -> String {
        if !self.out.is_empty() {
            self.out.push('\n');
        }
        self.out
    }
}

fn is_operator(kind: K) -> bool {
    matches!(
        kind,
        K::Plus
            | K::Minus
            | K::Star
            | K::Slash
            | K::Same
            | K::NotSame
            | K::Less
            | K::AtMost
            | K::Greater
            | K::AtLeast
            | K::Equals
    )
}

/// Whether a token is the first of a statement, an item or a step.
fn begins_statement(token: &Token) -> bool {
    let Some(parent) = token.parent() else { return false };
    // The outermost node that begins with this token.
    let begins = |node: &syntax::Node| {
        node.first_token().is_some_and(|first| {
            let mut at = Some(first);
            while let Some(token) = &at
                && token.kind().is_trivia()
            {
                at = token.next_token();
            }
            at.as_ref() == Some(token)
        })
    };
    let outermost = parent.ancestors().take_while(|node| begins(node) && node.kind() != K::File).last();
    outermost.is_some_and(|node| {
        node.parent().is_some_and(|around| matches!(around.kind(), K::Block | K::File | K::Playtest | K::Kit))
    })
}
