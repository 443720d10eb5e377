//! A part of a game's own can do what ours can: a region, signals by type, settings of a shape, commands with values.

use stoicheon_core::{
    BuildError, Command, CommandKind, Error, Join, Param, ParamType, Part, PartCx, PartId, PartKind,
    PartSpec, PartState, Region, SHAPE_SETTINGS, Setting, SettingType, SettingValue, Settings, Signal,
    SignalId, SignalKind, TickRate, Touched, Value, Vec3, World, Zone, chain_settings, payload, shape_from,
    space::Shape,
};

payload! {
    struct Rang { times: i64 }
}

payload! {
    #[derive(Clone)]
    struct Struck { times: i64, hard: bool }
}

/// A bell that knows who is near.
#[derive(Clone, Debug)]
struct Bell {
    region: Region,
    rung: bool,
}

static SETTINGS: [Setting; 13] =
    chain_settings(SHAPE_SETTINGS, [Setting::optional("old", SettingType::Flag, "It is an old one.")]);

const RING: Command = Command::new(0);

const BELL: PartKind = PartKind::new(
    "bell",
    "Rings, and knows who is near.",
    |settings, _| {
        let region = Region { shape: shape_from(settings)?, ..Region::default() };
        region.check()?;
        Ok(Box::new(Bell { region, rung: false }))
    },
    || Box::new(Bell { region: Region::default(), rung: false }),
)
.with_states(&["still", "rung"])
.with_signals(&[
    SignalKind::named(Zone::ON_ENTERED, "Somebody is near."),
    SignalKind::named(Zone::ON_LEFT, "Somebody has gone."),
    SignalKind::named(Zone::ON_OCCUPIED, "The first is near."),
    SignalKind::named(Zone::ON_VACATED, "The last has gone."),
    SignalKind::named(Zone::ON_PULSE, "Somebody is still near."),
    SignalKind::of::<Rang>("rang", "It has rung."),
])
.with_commands(&[CommandKind::with(
    "ring",
    "It rings.",
    &[Param::required("times", ParamType::Whole, "How often.")],
)])
.with_settings(&SETTINGS);

impl Part for Bell {
    fn kind(&self) -> &'static PartKind {
        &BELL
    }
    fn state(&self) -> PartState {
        self.rung.into()
    }
    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        assert_eq!(command, RING);
        cx.shift(self.state(), true.into());
        self.rung = true;
        cx.emit(5, Rang { times: cx.arg("times").and_then(Value::as_whole).unwrap_or(-1) });
    }
    fn joins(&self) -> Vec<Join> {
        vec![Join::new("struck", RING)]
    }
    fn region(&self) -> Option<&Region> {
        Some(&self.region)
    }
    fn save(&self, to: &mut Vec<Value>) {
        to.push(self.rung.into());
        self.region.shape.iter().for_each(|shape| shape.save(to));
    }
    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Bool(rung), shape @ ..] = saved else { return false };
        let Some((shape, [])) = Shape::load(shape) else { return false };
        *self = Self { region: Region { shape: Some(shape), ..Region::default() }, rung: *rung };
        true
    }
}

struct BellOf(f64);

#[derive(Clone, Copy)]
struct BellHandle {
    part: PartId,
    entered: Signal<Touched>,
    rang: Signal<Rang>,
    /// Of another type than the kind says.
    wrong: Signal<Struck>,
}

impl PartSpec for BellOf {
    type Handle = BellHandle;
    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        let region = Region { shape: Some(Shape::ball(self.0)), ..Region::default() };
        region.check()?;
        Ok(Box::new(Bell { region, rung: false }))
    }
    fn handle(part: PartId, signals: &[SignalId]) -> BellHandle {
        let nth = |number| signals[number];
        assert_eq!(Signal::<Rang>::nth(signals, 5).id(), nth(5));
        BellHandle {
            part,
            entered: Signal::nth(signals, 0),
            rang: Signal::nth(signals, 5),
            wrong: Signal::nth(signals, 5),
        }
    }
}

type Heard = Vec<i64>;

fn bell(world: &mut World<Heard>) -> BellHandle {
    let quay = world.object("quay").add().unwrap();
    let bell = world.attach(quay, BellOf(2.0)).unwrap();
    world.on(bell.rang).run(|heard: &mut Heard, rang: &Rang, _| heard.push(rang.times)).unwrap();
    bell
}

#[test]
fn a_region_of_ones_own_tells_who_comes_and_a_handle_has_its_signals() {
    let mut world = World::<Heard>::new();
    let bell = bell(&mut world);
    world
        .on(bell.entered)
        .run(move |_, _, cx| cx.command_for(None, bell.part, RING, &[("times", 2.into())]))
        .unwrap();
    let ada = world.player("ada").at(Vec3::new(9.0, 0.0, 0.0)).add().unwrap();
    world.walk(ada, Vec3::ZERO, 30.0).unwrap();
    let mut heard = Heard::new();
    let before = world.snapshot().unwrap();
    (0..12).for_each(|_| world.step(&mut heard).unwrap());
    assert_eq!(heard, [2]);
    let digest = world.trace().digest();
    world.restore(&before).unwrap();
    (0..12).for_each(|_| world.step(&mut heard).unwrap());
    assert_eq!((heard, world.trace().digest()), (vec![2, 2], digest));
}

#[test]
fn a_handle_of_the_wrong_type_neither_emits_nor_hears() {
    let mut world = World::<Heard>::new();
    let bell = bell(&mut world);
    assert!(world.emit(bell.wrong, Struck { times: 1, hard: true }).is_err());
    let wired = world.on(bell.wrong).run(|heard: &mut Heard, _, _| heard.push(-9));
    assert!(matches!(wired, Err(Error::Build(BuildError::PayloadMismatch { .. }))), "{wired:?}");
    assert!(world.on(bell.wrong).into_mailbox().is_err());
    assert_eq!(world.listeners(bell.rang), 1);
}

#[test]
fn a_signal_that_its_object_gives_later_is_a_command_too() {
    let mut world = World::<Heard>::new();
    let bell = bell(&mut world);
    let quay = world.object_of(bell.part).unwrap();
    let struck = world.declare_signal_of::<Struck>(quay, "struck").unwrap();
    // Declared once more it is the same, and is wired once.
    world.declare_signal_of::<Struck>(quay, "struck").unwrap();
    world.emit(struck, Struck { times: 4, hard: true }).unwrap();
    let mut heard = Heard::new();
    world.step(&mut heard).unwrap();
    assert_eq!(heard, [4]);
}

#[test]
fn settings_of_a_shape_are_read_and_checked() {
    let mut world = World::<Heard>::new();
    let quay = world.object("quay").add().unwrap();
    let mut settings = Settings::default();
    settings.set("ball", SettingValue::Number(-1.0));
    assert!(world.attach_kind(quay, &BELL, &settings).is_err());
    assert!(world.parts_of(quay).is_empty());
    settings.set("ball", SettingValue::Number(1.5));
    let part = world.attach_kind(quay, &BELL, &settings).unwrap();
    let form = world.part::<Bell>(part).unwrap().region.shape.as_ref().and_then(|shape| shape.forms().next());
    assert_eq!(form.map(|(form, _)| form), Some(stoicheon_core::space::Form::Ball { radius: 1.5 }));
}
