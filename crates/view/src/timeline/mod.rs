//! A timeline: what happened in which order, to what, from which cause.

mod page;
mod story;

use stoicheon_core::State;

use crate::timeline::story::Story;

pub(crate) use page::Window;

/// Draws what happened over time, as SVG: a lane for each player and each object; spans for doors that open, keys that are held, reactions
/// that wait and bodies that are inside a zone; instants for signals, filled if a wire took them, hollow if all refused and small if
/// nobody listens; and curves from causes to their effects.
///
/// ```
/// use stoicheon_core::{Door, Steps, World};
/// use stoicheon_view::Timeline;
/// let mut world = World::<()>::new();
/// let bell = world.declare_signal::<()>("bell")?;
/// let gate = world.object("upper_gate").add()?;
/// let gate = world.attach(gate, Door::swing(85.0))?;
/// world.on(bell).run_steps(Steps::new().open(gate))?;
/// world.emit(bell, ())?;
/// (0..60).try_for_each(|_| world.step(&mut ()))?;
/// let picture = Timeline::new("Harrow Lock").with(&world).draw();
/// assert!(picture.contains("upper_gate") && picture.contains("opening"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Timeline {
    title: String,
    story: Story,
    window: Window,
}

impl Timeline {
    /// A timeline with that title, of nothing yet.
    pub fn new(title: &str) -> Self {
        Self { title: title.to_owned(), story: Story::default(), window: Window::default() }
    }

    /// With what the trace of a world has kept. A world that goes on where another ended comes after it.
    pub fn with(mut self, state: &State) -> Self {
        self.story.add(state);
        self
    }

    /// Only what happened from that time on, in seconds.
    pub fn from(mut self, seconds: f64) -> Self {
        self.window.from = Some(seconds);
        self
    }

    /// Only what happened up to that time, in seconds.
    pub fn to(mut self, seconds: f64) -> Self {
        self.window.to = Some(seconds);
        self
    }

    /// The timeline, as SVG. It is as high as it needs to be.
    pub fn draw(&self) -> String {
        page::draw(&self.title, &self.story, self.window)
    }

    /// On paper of that width, a piece after the other, each with so many spans and instants at most, if they are not all at once.
    pub(crate) fn pieces(&self, width: f64, most: usize) -> Vec<(Window, String)> {
        let mut starts: Vec<f64> = self.story.pieces.iter().map(|piece| piece.from).collect();
        starts.sort_by(f64::total_cmp);
        let mut cuts = vec![0.0];
        let mut last = 0;
        for (index, start) in starts.iter().enumerate() {
            if index - last >= most && cuts.last().is_some_and(|cut| start > cut) {
                cuts.push(*start);
                last = index;
            }
        }
        cuts.push(self.story.ends);
        let windows: Vec<(f64, f64)> = cuts.windows(2).map(|pair| (pair[0], pair[1])).collect();
        let draw = |((from, to), story): (&(f64, f64), &Story)| {
            let window = Window { from: Some(*from), to: Some(*to), width, titles: false };
            (window, page::draw(&self.title, story, window))
        };
        windows.iter().zip(&self.story.cut(&windows)).map(draw).collect()
    }
}
