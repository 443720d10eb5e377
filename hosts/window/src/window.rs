//! The window: keys come in, pictures go out, sixty times a second.

use std::{
    collections::HashSet,
    error::Error,
    num::NonZero,
    path::PathBuf,
    rc::Rc,
    time::{Duration, Instant},
};

use softbuffer::{Context, Surface};
use winit::{
    application::ApplicationHandler,
    dpi::PhysicalSize,
    event::{ElementState, KeyEvent, WindowEvent},
    event_loop::{ActiveEventLoop, ControlFlow, EventLoop, OwnedDisplayHandle},
    keyboard::{Key, NamedKey},
    window::WindowId,
};

use crate::{
    canvas::Canvas,
    draw,
    game::{Game, Keys},
};

/// The size of the picture, in pixels.
const SIZE: (u32, u32) = (1280, 800);
/// The time of a frame.
const FRAME: Duration = Duration::from_millis(16);

/// The keys of a player: up, left, down, right, and use.
const ADA: [Key<&str>; 5] =
    [Key::Character("w"), Key::Character("a"), Key::Character("s"), Key::Character("d"), Key::Character("e")];
const BEN: [Key<&str>; 5] = [
    Key::Named(NamedKey::ArrowUp),
    Key::Named(NamedKey::ArrowLeft),
    Key::Named(NamedKey::ArrowDown),
    Key::Named(NamedKey::ArrowRight),
    Key::Named(NamedKey::Enter),
];

type Shared = Rc<winit::window::Window>;

/// The game in its window.
pub(crate) struct Window {
    game: Game,
    file: PathBuf,
    canvas: Canvas,
    shown: Option<(Shared, Surface<OwnedDisplayHandle, Shared>)>,
    down: HashSet<Key>,
    last: Instant,
    /// What went wrong with the window itself.
    broken: Option<Box<dyn Error>>,
}

impl Window {
    pub(crate) fn new(game: Game, file: PathBuf) -> Result<Self, Box<dyn Error>> {
        let canvas = Canvas::new(SIZE.0, SIZE.1).ok_or("a picture of that size cannot be made")?;
        let (shown, down, last) = (None, HashSet::new(), Instant::now());
        Ok(Self { game, file, canvas, shown, down, last, broken: None })
    }

    /// Runs until the window is closed.
    pub(crate) fn run(mut self) -> Result<(), Box<dyn Error>> {
        EventLoop::new()?.run_app(&mut self)?;
        self.broken.map_or(Ok(()), Err)
    }

    fn open(&mut self, on: &ActiveEventLoop) -> Result<(), Box<dyn Error>> {
        let size = PhysicalSize::new(SIZE.0, SIZE.1);
        let wanted = winit::window::Window::default_attributes();
        let wanted = wanted.with_title("Harrow Lock").with_inner_size(size).with_resizable(false);
        let window = Rc::new(on.create_window(wanted)?);
        let context = Context::new(on.owned_display_handle())?;
        self.shown = Some((window.clone(), Surface::new(&context, window)?));
        self.last = Instant::now();
        Ok(())
    }

    fn keys(&self, of: [Key<&str>; 5]) -> Keys {
        let is_down = |key: Key<&str>| self.down.iter().any(|down| down.as_ref() == key);
        let [up, left, down, right, uses] = of.map(is_down);
        let axis = |back: bool, forth: bool| f32::from(i8::from(forth) - i8::from(back));
        Keys { across: axis(left, right), down: axis(up, down), uses }
    }

    fn key(&mut self, event: &KeyEvent, on: &ActiveEventLoop) {
        // With Shift held a letter is another one: it is the same key.
        let key = match &event.logical_key {
            Key::Character(letter) => Key::Character(letter.to_lowercase().into()),
            other => other.clone(),
        };
        if event.state == ElementState::Released {
            self.down.remove(&key);
            return;
        }
        if event.repeat {
            return;
        }
        match key {
            Key::Named(NamedKey::Escape) => on.exit(),
            Key::Named(NamedKey::F5) => self.game.save(&self.file),
            Key::Named(NamedKey::F9) => self.game.load(&self.file),
            key => _ = self.down.insert(key),
        }
    }

    /// One frame: play, draw, show, and say what is new.
    fn frame(&mut self) -> Result<(), Box<dyn Error>> {
        // A frame that took long, such as the first one, is no reason to run.
        let passed = self.last.elapsed().min(Duration::from_millis(250));
        self.last = Instant::now();
        let keys = [self.keys(ADA), self.keys(BEN)];
        self.game.frame(passed.as_secs_f64(), keys)?;
        self.game.say();
        draw::draw(&self.game, &mut self.canvas);
        let Some((_, surface)) = &mut self.shown else { return Ok(()) };
        let size = |of| NonZero::new(of).ok_or("a window without a size");
        surface.resize(size(SIZE.0)?, size(SIZE.1)?)?;
        let mut buffer = surface.buffer_mut()?;
        buffer.iter_mut().zip(self.canvas.pixels()).for_each(|(to, pixel)| *to = pixel);
        buffer.present()?;
        Ok(())
    }

    fn check(&mut self, done: Result<(), Box<dyn Error>>, on: &ActiveEventLoop) {
        if let Err(error) = done {
            self.broken = Some(error);
            on.exit();
        }
    }
}

impl ApplicationHandler for Window {
    fn resumed(&mut self, on: &ActiveEventLoop) {
        let opened = self.open(on);
        self.check(opened, on);
    }

    fn window_event(&mut self, on: &ActiveEventLoop, _: WindowId, event: WindowEvent) {
        match event {
            WindowEvent::CloseRequested => on.exit(),
            WindowEvent::KeyboardInput { event, .. } => self.key(&event, on),
            // In another window no key is held here.
            WindowEvent::Focused(false) => self.down.clear(),
            WindowEvent::RedrawRequested => {
                let drawn = self.frame();
                self.check(drawn, on);
            }
            _ => {}
        }
    }

    fn about_to_wait(&mut self, on: &ActiveEventLoop) {
        let left = FRAME.saturating_sub(self.last.elapsed());
        if !left.is_zero() {
            on.set_control_flow(ControlFlow::wait_duration(left));
        } else if let Some((window, _)) = &self.shown {
            window.request_redraw();
        }
    }
}
