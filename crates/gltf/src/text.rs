//! Objects as wiring.

use glam::{DQuat, DVec3};

use crate::node::{Form, Placed};

/// A number as people write it: what is past a hundred-thousandth is rounding.
fn number(of: f64) -> String {
    let rounded = (of * 1e5).round() / 1e5;
    // Not -0.
    (rounded + 0.0).to_string()
}

fn vector(of: DVec3) -> String {
    format!("({}, {}, {})", number(of.x), number(of.y), number(of.z))
}

/// `30deg about y`; nothing for what is not turned.
fn turn(of: DQuat) -> Option<String> {
    let of = if of.w < 0.0 { -of } else { of };
    let (axis, angle) = of.to_axis_angle();
    let degrees = angle.to_degrees();
    if degrees.abs() < 1e-4 {
        return None;
    }
    for (name, along) in [("x", DVec3::X), ("y", DVec3::Y), ("z", DVec3::Z)] {
        let same = axis.dot(along);
        if same.abs() > 1.0 - 1e-9 {
            return Some(format!("{}deg about {name}", number(degrees * same.signum())));
        }
    }
    Some(format!("{}deg about {}", number(degrees), vector(axis)))
}

fn part((kind, form, middle): &(String, Form, DVec3)) -> String {
    let form = match form {
        Form::Box(size) => format!("box {}", vector(*size)),
        Form::Ball(radius) => format!("ball {}", number(*radius)),
    };
    let offset = if middle.length() > 1e-5 { format!(", offset {}", vector(*middle)) } else { String::new() };
    format!("{kind} {form}{offset}")
}

fn item(placed: &Placed) -> String {
    let Placed { name, of, at, facing, tags, spot, parts } = placed;
    let item = if *spot { "spot" } else { "object" };
    let turn = turn(*facing).map(|turn| format!(" facing {turn}"));
    let of = of.as_ref().map(|of| format!(" of {of}"));
    let tags = (!tags.is_empty()).then(|| format!(" tags {}", tags.join(", ")));
    let parts: Vec<_> = parts.iter().map(part).collect();
    let parts = (!parts.is_empty()).then(|| format!(" {{ {} }}", parts.join("; ")));
    let clauses: String = [turn, of, tags, parts].into_iter().flatten().collect();
    format!("{item} {name} at {}{clauses}\n", vector(*at))
}

/// One object or spot for each, in their order, as a wiring file has it.
pub fn wiring(places: &[Placed]) -> String {
    places.iter().map(item).collect()
}
