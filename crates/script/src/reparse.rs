//! A text that is parsed, and the same after an edit: only what stands around the edit is parsed again.

use std::{ops::Range, sync::Arc};

use crate::{
    diagnostic::Diagnostic,
    lower::lower_items,
    model::{
        Bind, Constant, Declaration, Expr, File, Items, Kit, Moves, Object, Playtest, Routine, Shift, Spot,
        Use, Var, Wire,
    },
    source::Span,
    syntax::{Node, Parsed, SyntaxKind, open_braces, parse, parse_items},
};

/// How many items before an edit are parsed again, and how many are read behind it: how an item ends depends on the first words of the next.
const AROUND: usize = 2;

/// A text that is parsed and lowered.
#[derive(Clone, Debug)]
pub(crate) struct ParsedText {
    pub(crate) file: Arc<File>,
    /// What is wrong with its syntax, and with its literals, each in the order in which it was found.
    syntax: Vec<Diagnostic>,
    literals: Vec<Diagnostic>,
    /// Where its items begin that begin a line.
    starts: Vec<u32>,
    /// How many braces are opened and not closed.
    open: i64,
    /// How many bytes were parsed to come to it.
    pub(crate) parsed: usize,
}

/// What differs between two texts: a stretch of the first one, and how much longer the second one is.
struct Edit {
    old: Range<u32>,
    by: i64,
}

impl Edit {
    fn between(old: &str, new: &str) -> Option<Self> {
        let (one, two) = (old.as_bytes(), new.as_bytes());
        let start = one.iter().zip(two).take_while(|(one, two)| one == two).count();
        let most = one.len().min(two.len()) - start;
        let ends = one.iter().rev().zip(two.iter().rev()).take(most);
        let same_end = ends.take_while(|(one, two)| one == two).count();
        let old = u32::try_from(start).ok()?..u32::try_from(one.len() - same_end).ok()?;
        Some(Self { old, by: i64::try_from(two.len()).ok()? - i64::try_from(one.len()).ok()? })
    }
}

/// Where a finding stands.
fn at(found: &Diagnostic) -> u32 {
    found.labels.first().map_or(0, |label| label.span.start)
}

/// Where the items begin that begin a line, in a text that begins that far into its file.
fn starts(tree: &Node, text: &str, begins: u32) -> Vec<u32> {
    let items = tree.children().filter(|node| node.kind() != SyntaxKind::Bad);
    let local = items.map(|node| usize::from(node.text_range().start()));
    let first = local.filter(|start| *start == 0 || text.as_bytes().get(start - 1) == Some(&b'\n'));
    first.filter_map(|start| Some(begins + u32::try_from(start).ok()?)).collect()
}

impl ParsedText {
    /// Parses a text, which is the file of that number, of the scene of that number.
    pub(crate) fn of(text: &str, (number, scene_number): (u32, u32)) -> Self {
        let Parsed { tree, errors, open } = parse(text, number);
        let mut literals = Vec::new();
        let file = lower_items(tree.children(), number, 0, &mut literals);
        let file = Arc::new(File { scene_number, source: number, ..file });
        Self { file, syntax: errors, literals, starts: starts(&tree, text, 0), open, parsed: text.len() }
    }

    /// What is wrong with it.
    pub(crate) fn faults(&self) -> impl Iterator<Item = &Diagnostic> {
        self.syntax.iter().chain(&self.literals)
    }

    /// The same text after an edit. `None` if what the edit changes may reach further than the items around it.
    pub(crate) fn edited(&self, old: &str, new: &str) -> Option<Self> {
        let edit = Edit::between(old, new)?;
        let touched = self.starts.partition_point(|start| *start < edit.old.start);
        let first = touched.saturating_sub(1 + AROUND);
        let begin = if touched > AROUND { *self.starts.get(first)? } else { 0 };
        let next = self.starts.partition_point(|start| *start <= edit.old.end);
        let until = self.starts.get(next).copied();
        let length = u32::try_from(old.len()).ok()?;
        let ahead = until.and_then(|_| self.starts.get(next + AROUND).copied()).unwrap_or(length);
        // What is wrong at the end of the file stands at its last byte.
        let region = begin..until.unwrap_or(u32::MAX);
        let shift = Shift { file: self.file.source, from: region.end, by: edit.by };
        let end = until.map_or(u32::try_from(new.len()).ok()?, |until| shift.of(until));
        if until.is_some() && new.as_bytes().get(end as usize - 1) != Some(&b'\n') {
            return None;
        }
        // A fault right at the edge may have hidden another one there.
        let at_edge = |found: &Diagnostic| begin > 0 && at(found) == begin || Some(at(found)) == until;
        if self.syntax.iter().any(at_edge) || has_head(&self.file, &region) {
            return None;
        }
        let slice = |text: &'_ str, from: u32, to: u32| text.get(from as usize..to as usize).map(open_braces);
        let open = self.open - slice(old, begin, until.unwrap_or(length))? + slice(new, begin, end)?;
        if (open > 0) != (self.open > 0) {
            return None;
        }
        let ahead = until.map_or(end, |_| shift.of(ahead));
        let text = new.get(begin as usize..ahead as usize)?;
        let Parsed { tree, errors, .. } = parse_items(text, self.file.source, begin as usize, open > 0);
        let start_of = |node: &Node| begin + u32::from(node.text_range().start());
        let goes_on = |node: Node| node.kind() != SyntaxKind::Bad && start_of(&node) == end;
        if until.is_some() && (!tree.children().any(goes_on) || errors.iter().any(|found| at(found) == end)) {
            return None;
        }
        let is_here = |start: u32| until.is_none() || start < end;
        let mut literals = Vec::new();
        let nodes = tree.children().filter(|node| is_here(start_of(node)));
        let piece = lower_items(nodes, self.file.source, begin, &mut literals);
        let errors = errors.into_iter().filter(|found| is_here(at(found))).collect();
        let mut starts = self.starts[..if begin == 0 { 0 } else { first }].to_vec();
        starts.extend(self::starts(&tree, text, begin).into_iter().filter(|start| is_here(*start)));
        starts.extend(self.starts[next..].iter().map(|start| shift.of(*start)));
        Some(Self {
            file: Arc::new(with(&self.file, piece, &region, shift)?),
            syntax: findings(&self.syntax, errors, &region, shift),
            literals: findings(&self.literals, literals, &region, shift),
            starts,
            open,
            parsed: text.len(),
        })
    }
}

/// The findings before a stretch of text, the new ones in it, and those behind it.
fn findings(old: &[Diagnostic], new: Vec<Diagnostic>, region: &Range<u32>, shift: Shift) -> Vec<Diagnostic> {
    let mut all: Vec<_> = old.iter().filter(|found| at(found) < region.start).cloned().collect();
    all.extend(new);
    let mut behind: Vec<_> = old.iter().filter(|found| at(found) >= region.end).cloned().collect();
    behind.moves(shift);
    all.extend(behind);
    all
}

/// Whether a stretch of text says what a file is, and not only what is in it.
fn has_head(file: &File, region: &Range<u32>) -> bool {
    let File { scene, project, scenes, ticks, players, seeds, shared, catalogues, places, given, .. } = file;
    let names = scene.iter().chain(project).chain(shared).chain(catalogues).chain(places);
    let names =
        names.chain(scenes.iter().map(|scene| &scene.file)).chain(given.iter().map(|given| &given.name));
    let counts = ticks.iter().chain(players).map(|count| count.span);
    let mut spans = names.map(|name| name.span).chain(counts);
    !seeds.is_empty() || spans.any(|span: Span| region.contains(&span.start))
}

/// The file with other items in a stretch of its text.
fn with(old: &File, piece: File, region: &Range<u32>, shift: Shift) -> Option<File> {
    if has_head(&piece, &(0..u32::MAX)) {
        return None;
    }
    let mut file = old.clone();
    let File { items, kits, playtests, shortest, .. } = piece;
    file.shortest = match (old.shortest, shortest) {
        // The shortest one of all others is not known.
        (Some((_, at)), _) if region.contains(&at.start) => return None,
        // Of two that are as short, the first one counts.
        (Some((one, at)), Some((two, _))) if two < one || two <= one && at.start >= region.end => shortest,
        (None, _) => shortest,
        (Some((span, mut at)), _) => {
            at.moves(shift);
            Some((span, at))
        }
    };
    let Items {
        givens,
        vars,
        signals,
        effects,
        objects,
        managers,
        moulds,
        spots,
        wires,
        binds,
        rules,
        routines,
        uses,
    } = items;
    let into = &mut file.items;
    splice(&mut into.givens, givens, region, shift);
    splice(&mut into.vars, vars, region, shift);
    splice(&mut into.signals, signals, region, shift);
    splice(&mut into.effects, effects, region, shift);
    splice(&mut into.objects, objects, region, shift);
    splice(&mut into.managers, managers, region, shift);
    splice(&mut into.moulds, moulds, region, shift);
    splice(&mut into.spots, spots, region, shift);
    splice(&mut into.wires, wires, region, shift);
    splice(&mut into.binds, binds, region, shift);
    splice(&mut into.rules, rules, region, shift);
    splice(&mut into.routines, routines, region, shift);
    splice(&mut into.uses, uses, region, shift);
    splice(&mut file.kits, kits, region, shift);
    splice(&mut file.playtests, playtests, region, shift);
    file.scene.moves(shift);
    file.project.moves(shift);
    file.scenes.moves(shift);
    file.ticks.moves(shift);
    file.players.moves(shift);
    file.shared.moves(shift);
    file.catalogues.moves(shift);
    file.places.moves(shift);
    file.given.moves(shift);
    Some(file)
}

/// Other things in a stretch of text; those behind it move.
fn splice<T: Moves + Begins>(old: &mut Vec<T>, new: Vec<T>, region: &Range<u32>, shift: Shift) {
    let first = old.partition_point(|thing| thing.begins() < region.start);
    let mut behind = old.split_off(old.partition_point(|thing| thing.begins() < region.end));
    old.truncate(first);
    behind.moves(shift);
    old.extend(new);
    old.extend(behind);
}

/// What stands somewhere in its item.
trait Begins {
    /// Some byte of it.
    fn begins(&self) -> u32;
}

macro_rules! begins {
    ($($ty:ty: $($field:ident).+;)*) => {
        $(impl Begins for $ty {
            fn begins(&self) -> u32 {
                self.$($field).+.start
            }
        })*
    };
}

begins! {
    Constant: name.span;
    Var: name.span;
    Declaration: name.span;
    Object: span;
    Spot: name.span;
    Wire: span;
    Bind: span;
    Expr: span;
    Routine: span;
    Use: span;
    Kit: name.span;
    Playtest: span;
}
