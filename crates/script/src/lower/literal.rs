//! Literals: numbers with their units, texts, spans of time.

use rowan::ast::support;
use smol_str::SmolStr;
use stoicheon_core::Colour;

use super::Lower;
use crate::{
    model::{Literal, SecondsValue, SpanValue},
    source::Span,
    syntax::{Node, SyntaxKind as K, Token},
};

/// The longest span of time, in seconds.
const LONGEST: f64 = 1e9;

impl Lower<'_> {
    /// What stands between the quotes, with what follows a backslash resolved.
    pub(super) fn unquoted(&mut self, token: &Token) -> Option<SmolStr> {
        let quoted = token.text();
        let inner = quoted.get(1..quoted.len() - 1).unwrap_or_default();
        self.resolved(inner, self.span(token.text_range()))
    }

    /// A piece of a text with what follows a backslash resolved.
    pub(super) fn resolved(&mut self, inner: &str, span: Span) -> Option<SmolStr> {
        let mut text = String::with_capacity(inner.len());
        let mut chars = inner.chars();
        while let Some(c) = chars.next() {
            if c != '\\' {
                text.push(c);
                continue;
            }
            text.push(match chars.next() {
                Some('n') => '\n',
                Some('r') => '\r',
                Some('t') => '\t',
                Some(plain @ ('"' | '\\' | '{' | '}')) => plain,
                other => {
                    let found = other.map(String::from).unwrap_or_default();
                    let message =
                        format!("expected \\n, \\r, \\t, \\\", \\{{, \\}} or \\\\ in a text, found \\{found}; a backslash itself is \\\\");
                    self.bad_literal(span, &message);
                    return None;
                }
            });
        }
        Some(text.into())
    }

    pub(super) fn literal(&mut self, token: &Token) -> Option<Literal> {
        let text = token.text();
        match token.kind() {
            K::Text => return self.unquoted(token).map(Literal::Text),
            K::Colour => {
                if text.parse::<Colour>().is_err() {
                    let message = "expected a colour of six or eight digits, such as #6fa8b0";
                    self.bad_literal(self.span(token.text_range()), message);
                    return None;
                }
                return Some(Literal::Colour(text.into()));
            }
            _ => {}
        }
        let digits = text.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(text.len());
        let (digits, unit) = text.split_at(digits);
        let number: f64 = digits.parse().ok()?;
        if !number.is_finite() {
            self.bad_literal(self.span(token.text_range()), "expected a number that can be counted");
            return None;
        }
        match unit {
            "" if digits.contains('.') => Some(Literal::Number(number)),
            "" => match digits.parse() {
                Ok(whole) => Some(Literal::Whole(whole)),
                Err(_) => {
                    let message = format!("expected a whole number up to {}, or one with a dot", i64::MAX);
                    self.bad_literal(self.span(token.text_range()), &message);
                    None
                }
            },
            "%" => Some(Literal::Number(number / 100.0)),
            "deg" => Some(Literal::Degrees(number)),
            "s" | "ms" => {
                let seconds = if unit == "s" { number } else { number / 1000.0 };
                if seconds > 0.0 && self.shortest.is_none_or(|(shortest, _)| seconds < shortest) {
                    self.shortest = Some((seconds, self.span(token.text_range())));
                }
                if seconds <= LONGEST {
                    return Some(Literal::Seconds(seconds));
                }
                self.bad_literal(self.span(token.text_range()), "expected a span up to 1e9 s");
                None
            }
            "ticks" | "tick" => {
                let whole = digits.parse().ok().filter(|ticks| *ticks <= 1_000_000_000_000_u64);
                if whole.is_none() {
                    self.bad_literal(self.span(token.text_range()), "expected a whole number of ticks");
                }
                whole.map(Literal::Ticks)
            }
            _ => {
                self.bad_literal(self.span(token.text_range()), "the units are s, ms, ticks, deg and %");
                None
            }
        }
    }

    /// The span of time that stands directly in a node.
    pub(super) fn duration(&mut self, node: &Node) -> Option<SecondsValue> {
        let token = support::token(node, K::Number)?;
        match self.literal(&token)? {
            Literal::Seconds(span) if span > 0.0 => Some(SecondsValue(span)),
            Literal::Seconds(_) => {
                self.bad_literal(self.span(token.text_range()), "expected a span above 0 s and up to 1e9 s");
                None
            }
            _ => {
                let message = "expected a span of time, such as 2s or 400ms";
                self.bad_literal(self.span(token.text_range()), message);
                None
            }
        }
    }

    /// The same for a playtest, which may say it in ticks.
    pub(super) fn span_value(&mut self, node: &Node) -> Option<SpanValue> {
        let token = support::token(node, K::Number)?;
        if !token.text().trim_end_matches('s').ends_with("tick") {
            return self.duration(node).map(SpanValue::Seconds);
        }
        match self.literal(&token)? {
            Literal::Ticks(ticks) if ticks > 0 => Some(SpanValue::Ticks { ticks }),
            _ => {
                self.bad_literal(self.span(token.text_range()), "expected at least 1 tick");
                None
            }
        }
    }

    /// The whole number that stands directly in a node, with its sign.
    pub(super) fn whole(&mut self, node: &Node) -> Option<i32> {
        let token = support::token(node, K::Number)?;
        let sign = if support::token(node, K::Minus).is_some() { "-" } else { "" };
        let number = format!("{sign}{}", token.text()).parse();
        if number.is_err() {
            self.bad_literal(self.span(token.text_range()), "expected a whole number");
        }
        number.ok()
    }

    /// The number of times that stands directly in a node.
    pub(super) fn count(&mut self, node: &Node) -> Option<u32> {
        let token = support::token(node, K::Number)?;
        let number = token.text().parse().ok().filter(|count| *count > 0);
        if number.is_none() {
            self.bad_literal(self.span(token.text_range()), "expected a whole number above 0");
        }
        number
    }
}
