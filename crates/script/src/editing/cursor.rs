//! Where somebody writes: the text with a word of its own at that place, so that its tree says what stands there.

use crate::syntax::{self, Node, SyntaxKind as K, Token};

/// The word that stands for what is being written. Nobody calls anything so.
pub(super) const MARK: &str = "written_here_mark";

/// A text in which a word is being written; the mark stands in its place.
pub(super) struct Cursor {
    /// The word that is being written, in the text as it was.
    pub(super) word: std::ops::Range<usize>,
    pub(super) tree: Node,
    pub(super) token: Token,
}

/// Whether a name can go on with that.
fn is_of_word(letter: char) -> bool {
    letter.is_alphanumeric() || letter == '_'
}

impl Cursor {
    /// None where no word can stand: in a remark, in a text, behind a number.
    pub(super) fn at(text: &str, byte: usize, file: u32) -> Option<Self> {
        let mut byte = byte.min(text.len());
        while !text.is_char_boundary(byte) {
            byte -= 1;
        }
        let before = text[..byte].trim_end_matches(is_of_word).len();
        // What begins with a digit is a number.
        if text[before..byte].starts_with(|letter: char| letter.is_ascii_digit()) {
            return None;
        }
        let after = text.len() - text[byte..].trim_start_matches(is_of_word).len();
        let marked = format!("{}{MARK}{}", &text[..before], &text[after..]);
        let tree = syntax::parse(&marked, file).tree;
        let at = u32::try_from(before).ok()?.into();
        let token = tree.token_at_offset(at).right_biased()?;
        (token.kind() == K::Word && token.text() == MARK).then_some(())?;
        Some(Self { word: before..after, tree, token })
    }

    /// The node that the word stands in.
    pub(super) fn parent(&self) -> Node {
        self.token.parent().unwrap_or_else(|| self.tree.clone())
    }

    /// The words of a path before the one that is written, whatever the parser made of them.
    pub(super) fn path_before(&self) -> Vec<Token> {
        let mut words = Vec::new();
        let mut at = self.token.prev_token();
        while let Some(dot) = at.filter(|token| token.kind() == K::Dot) {
            let Some(word) = dot.prev_token().filter(|token| token.kind() == K::Word) else { break };
            at = word.prev_token();
            words.push(word);
        }
        words.reverse();
        words
    }

    /// The token before it that means something, and whether it stands on the same line.
    pub(super) fn previous(&self) -> Option<(Token, bool)> {
        let (mut at, mut same_line) = (self.token.prev_token(), true);
        while let Some(token) = &at {
            if !token.kind().is_trivia() {
                break;
            }
            same_line &= token.kind() != K::Newline;
            at = token.prev_token();
        }
        at.map(|token| (token, same_line))
    }

    /// The nearest node around it of one of some kinds.
    pub(super) fn around(&self, kinds: &[K]) -> Option<Node> {
        self.token.parent_ancestors().find(|node| kinds.contains(&node.kind()))
    }
}
