//! A part of the game's own, written against the same trait as those that ship: a lift.

use stoicheon::{
    Value, Vec3,
    parts::{
        Command, PartState,
        custom::{
            Activity, CommandKind, Param, ParamType, Part, PartCx, PartKind, Setting, SettingType, SignalKind,
        },
    },
    payload,
};

payload! {
    /// The cage stands at a level.
    pub struct ArrivedAt { pub level: i64 }
}

#[derive(Clone, Debug, Default)]
struct Lift {
    step: f64,
    height: f64,
    to: i64,
    moving: bool,
}

pub const LIFT: PartKind = PartKind::new(
    "lift",
    "Carries its object from level to level, at 2 scene units per second.",
    |settings, _| Ok(Box::new(Lift { step: settings.number("step").unwrap_or(1.0), ..Lift::default() })),
    || Box::new(Lift::default()),
)
.with_states(&["standing", "moving"])
.with_signals(&[SignalKind::of::<ArrivedAt>("arrived_at", "It stands at a level.")])
.with_commands(&[CommandKind::with(
    "go",
    "It goes to a level.",
    &[Param::required("to", ParamType::Whole, "Which; 0 is the lowest.")],
)])
.with_settings(&[Setting::required("step", SettingType::Number, "From level to level, in scene units.")]);

impl Part for Lift {
    fn kind(&self) -> &'static PartKind {
        &LIFT
    }
    fn state(&self) -> PartState {
        self.moving.into()
    }
    fn command(&mut self, _: Command, cx: &mut PartCx<'_>) {
        self.to = cx.arg("to").and_then(Value::as_whole).unwrap_or_default();
        cx.shift(self.state(), true.into());
        self.moving = true;
        cx.wake();
    }
    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        let (left, most) = (self.to as f64 * self.step - self.height, 2.0 * cx.rate().step());
        let way = left.clamp(-most, most);
        self.height += way;
        let told = cx.place(cx.object()).and_then(|at| cx.walk(cx.object(), at + Vec3::Y * way as f32));
        cx.check(told);
        if left.abs() > most {
            return Activity::Moving;
        }
        cx.shift(self.state(), false.into());
        self.moving = false;
        cx.emit(0, ArrivedAt { level: self.to });
        Activity::Still
    }
    fn save(&self, to: &mut Vec<Value>) {
        to.extend([self.step.into(), self.height.into(), self.to.into(), self.moving.into()]);
    }
    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Number(step), Value::Number(height), Value::Whole(to), Value::Bool(moving)] = saved
        else {
            return false;
        };
        *self = Lift { step: *step, height: *height, to: *to, moving: *moving };
        true
    }
}
