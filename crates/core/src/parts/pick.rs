//! The pick: something that can be pointed at. The solid: something that hides what is behind it.

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{PartId, SignalId},
        signal::{Signal, SignalName},
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        kind::{PartKind, SignalKind},
        offers::{Aim, Picked},
        region::{SHAPE_SETTINGS, shape_from},
        setting::{Setting, Settings, chain_settings},
        setting_type::SettingType,
    },
    space::{
        grid::{Cells, Grid, Numbering},
        shape::Shape,
    },
};

/// Something that can be pointed at. Made in Rust with [`Pick::of`].
///
/// A ray picks the first thing it meets, if that can be picked and is in the player's reach; what can be picked hides
/// what is behind it, like a [`Solid`].
#[derive(Clone, Debug)]
pub struct Pick(Aim);

/// Something that hides what is behind it, from pointing and from sight. Made in Rust with [`Solid::of`].
#[derive(Clone, Debug)]
pub struct Solid(Aim);

/// The signal of something that can be picked, and the part.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct PickHandle {
    /// The part.
    pub part: PartId,
    /// A player pointed at it.
    pub picked: Signal<Picked>,
}

const OF_A_PICK: [Setting; 4] = [
    Setting::optional(
        "reach",
        SettingType::Number,
        "The largest distance from the player to the point. Default any distance.",
    )
    .live(),
    Setting::optional(
        "cells",
        SettingType::OneOf(&["square", "hex_pointy", "hex_flat"]),
        "The grid of cells, around the object's place. Default none.",
    ),
    Setting::optional(
        "cell",
        SettingType::Number,
        "The side of a square, or the distance from the middle of a hexagon to a corner. Default 1.",
    ),
    Setting::optional(
        "numbered",
        SettingType::OneOf(&["axial", "odd", "even", "flat_axial", "flat_odd", "flat_even"]),
        "How hexagons are numbered: axial, or in columns and rows with the odd or even ones shifted; \
                 with `flat_` the cells are in the plane of a flat scene. Default axial, on the ground.",
    ),
];

static PICK_SETTINGS: [Setting; 16] = chain_settings(SHAPE_SETTINGS, OF_A_PICK);

fn from_settings(settings: &Settings, picked: bool) -> Result<Aim, BuildError> {
    let shape = shape_from(settings)?.ok_or(BuildError::MissingForm)?;
    let size = settings.number("cell").unwrap_or(1.0);
    let numbered = settings.word("numbered").unwrap_or("axial");
    let numbering = match numbered.trim_start_matches("flat_") {
        "odd" => Numbering::Odd,
        "even" => Numbering::Even,
        _ => Numbering::Axial,
    };
    let cells = match settings.word("cells") {
        Some("square") => Some(Cells::Square),
        Some("hex_pointy") => Some(Cells::HexPointy),
        Some("hex_flat") => Some(Cells::HexFlat),
        _ => None,
    };
    let grid = cells.map(|cells| Grid::new(cells, size)).transpose()?;
    let grid = grid.map(|grid| grid.numbered(numbering));
    let grid = grid.map(|grid| if numbered.starts_with("flat_") { grid.in_flat_scene() } else { grid });
    Ok(Aim { shape, picked, reach: settings.number("reach"), grid })
}

impl Pick {
    /// The signal `picked` of any object that can be pointed at.
    pub const ON_PICKED: SignalName<Picked> = SignalName::new("picked");

    /// What is known of picks.
    pub const KIND: PartKind = PartKind {
        name: "pick",
        about: "Can be pointed at; reports the point and the cell of its grid.",
        states: &[],
        signals: &[SignalKind::named(Self::ON_PICKED, "A player pointed at it.")],
        commands: &[],
        variables: &[],
        readings: &[],
        words: None,
        settings: &PICK_SETTINGS,
        build: |settings, rate| Self(from_settings(settings, true)?).into_part(rate),
        blank: || Box::new(Self::of(Shape::ball(1.0))),
    };

    /// Can be pointed at from anywhere.
    pub fn of(shape: Shape) -> Self {
        Self(Aim { shape, picked: true, reach: None, grid: None })
    }

    /// The point may be so far from the player, in scene units.
    pub fn reach(mut self, reach: f64) -> Self {
        self.0.reach = Some(reach);
        self
    }

    /// Has cells on it, around the object's place and turned as that faces.
    pub fn grid(mut self, grid: Grid) -> Self {
        self.0.grid = Some(grid);
        self
    }
}

impl Solid {
    /// What is known of solids.
    pub const KIND: PartKind = PartKind {
        name: "solid",
        about: "Blocks pointing and line of sight.",
        states: &[],
        signals: &[],
        commands: &[],
        variables: &[],
        readings: &[],
        words: None,
        settings: &SHAPE_SETTINGS,
        build: |settings, rate| Self(from_settings(settings, false)?).into_part(rate),
        blank: || Box::new(Self::of(Shape::ball(1.0))),
    };

    /// Solid in that shape.
    pub fn of(shape: Shape) -> Self {
        Self(Aim { shape, picked: false, reach: None, grid: None })
    }
}

macro_rules! part {
    ($part:ty) => {
        impl Part for $part {
            fn kind(&self) -> &'static PartKind {
                &Self::KIND
            }
            fn save(&self, to: &mut Vec<Value>) {
                self.0.save(to);
            }
            fn load(&mut self, saved: &[Value]) -> bool {
                self.0.load(saved)
            }
            fn reshape(&mut self, shape: &Shape) -> bool {
                self.0.shape = shape.clone();
                true
            }
            fn aim(&self) -> Option<&Aim> {
                Some(&self.0)
            }
            fn read(&self, name: &str, _: &ReadCx<'_>) -> Option<Value> {
                (name == "reach").then(|| self.0.reach.map_or(Value::Nothing, Value::Number))
            }
            fn change(&mut self, setting: &str, to: &Value, _: &mut PartCx<'_>) -> Result<(), BuildError> {
                if let ("reach", Some(reach)) = (setting, to.as_number()) {
                    let aim = Aim { reach: Some(reach), ..self.0.clone() };
                    aim.check()?;
                    self.0 = aim;
                }
                Ok(())
            }
        }
    };
}
part!(Pick);
part!(Solid);

impl PartSpec for Pick {
    type Handle = PickHandle;
    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.0.check()?;
        Ok(Box::new(self))
    }
    fn handle(part: PartId, signals: &[SignalId]) -> PickHandle {
        PickHandle { part, picked: Signal::nth(signals, 0) }
    }
}

impl PartSpec for Solid {
    type Handle = PartId;
    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.0.check()?;
        Ok(Box::new(self))
    }
    fn handle(part: PartId, _: &[SignalId]) -> PartId {
        part
    }
}
