//! JSON as people read it: a line for each name, a list of numbers on one line.

use std::io::{Result, Write};

use serde_json::ser::Formatter;

/// How many blanks can be written at once.
const BLANKS: &[u8; 64] = &[b' '; 64];

#[derive(Debug, Default)]
pub(crate) struct PrettyJson {
    /// How many objects are open.
    depth: usize,
    /// The last object that was begun has something in it.
    filled: bool,
}

impl PrettyJson {
    fn new_line<W: ?Sized + Write>(&self, to: &mut W) -> Result<()> {
        to.write_all(b"\n")?;
        let mut left = self.depth * 2;
        while left > 0 {
            let blanks = left.min(BLANKS.len());
            to.write_all(&BLANKS[..blanks])?;
            left -= blanks;
        }
        Ok(())
    }
}

impl Formatter for PrettyJson {
    fn begin_array_value<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> Result<()> {
        if first { Ok(()) } else { to.write_all(b", ") }
    }

    fn begin_object<W: ?Sized + Write>(&mut self, to: &mut W) -> Result<()> {
        self.depth += 1;
        self.filled = false;
        to.write_all(b"{")
    }

    fn end_object<W: ?Sized + Write>(&mut self, to: &mut W) -> Result<()> {
        self.depth -= 1;
        if self.filled {
            self.new_line(to)?;
        }
        to.write_all(b"}")
    }

    fn begin_object_key<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> Result<()> {
        if !first {
            to.write_all(b",")?;
        }
        self.new_line(to)
    }

    fn begin_object_value<W: ?Sized + Write>(&mut self, to: &mut W) -> Result<()> {
        to.write_all(b": ")
    }

    fn end_object_value<W: ?Sized + Write>(&mut self, _: &mut W) -> Result<()> {
        self.filled = true;
        Ok(())
    }
}
