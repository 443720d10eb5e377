//! The colours of a trace.

use anstyle::{AnsiColor, Style};

/// Which styles the pieces of a trace are printed in.
#[derive(Clone, Copy, Debug, Default)]
pub struct Paint {
    pub(crate) time: Style,
    pub(crate) phase: Style,
    pub(crate) signal: Style,
    pub(crate) unheard: Style,
    pub(crate) took: Style,
    pub(crate) refused: Style,
    pub(crate) fault: Style,
    pub(crate) place: Style,
}

impl Paint {
    /// No styles at all: text for a file or a test.
    pub fn plain() -> Self {
        Self::default()
    }

    /// Styles for a terminal, in its own sixteen colours so that they suit any background.
    pub fn coloured() -> Self {
        Self {
            time: Style::new().bold(),
            phase: Style::new().dimmed(),
            signal: AnsiColor::Cyan.on_default().bold(),
            unheard: AnsiColor::Cyan.on_default(),
            took: AnsiColor::Green.on_default(),
            refused: AnsiColor::Yellow.on_default(),
            fault: AnsiColor::Red.on_default().bold(),
            place: Style::new().dimmed(),
        }
    }
}
