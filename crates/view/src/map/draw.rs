//! Marks and dots, on paper.

use svg::{
    Node,
    node::element::{Circle, Group, Polygon, Polyline, Rectangle, Title},
};

use crate::{
    map::{
        marks::{Form, Mark, Style},
        paper::{Flat, Paper},
        thing::Dot,
    },
    picture::{Ink, round},
};

/// The inks of a style: fill, edge, width, and dashes.
pub(crate) fn ink(style: Style) -> Ink {
    match style {
        Style::Zone => Ink::area("#9cc5c9", 0.35, "#4f8a90", 1.2),
        Style::Occupied => Ink::area("#e0a458", 0.7, "#a8641b", 1.4),
        Style::Solid => Ink::area("#a39b8b", 0.6, "#6f6858", 1.2),
        Style::Cell => Ink::area("#dfe8c8", 0.35, "#a3b37a", 0.7),
        Style::Reach => Ink::line("#7b6aa8", 1.0).dashed("2 4"),
        Style::Leaf => Ink::line("#5a3d1e", 4.0),
        Style::Swing => Ink::line("#b08d57", 1.4).dashed("5 3"),
        Style::Push => Ink::line("#2f7d5b", 3.0),
        Style::Sends => Ink::line("#a2467d", 1.6).dashed("8 4"),
        Style::Spot => Ink::line("#a2467d", 2.0),
        Style::Looks => Ink::line("#b23a48", 1.6),
        Style::Body => Ink::area("#33658a", 0.25, "#33658a", 1.0),
        Style::Way => Ink::line("#8a9aa0", 1.0),
    }
}

pub(crate) fn mark(mark: &Mark, paper: &Paper) -> Group {
    let ink = ink(mark.style);
    let points: Vec<Flat> = mark.points.iter().map(|point| paper.put(*point)).collect();
    let mut group =
        ink.of(Group::new()).add(Title::new(mark.about.as_str())).set("data-of", mark.of.as_str());
    if mark.faint {
        group = group.set("opacity", 0.35);
    }
    match mark.form {
        Form::Area => group.append(Polygon::new().set("points", points)),
        Form::Line => group.append(Polyline::new().set("points", points).set("fill", "none")),
        Form::Arrow => {
            group.append(Polyline::new().set("points", points.clone()).set("fill", "none"));
            if let [.., from, to] = points[..] {
                group.append(head(from, to).set("fill", ink.edge).set("stroke", "none"));
            }
        }
        Form::Circle(radius) => {
            let (x, y) = points.first().copied().unwrap_or_default();
            let radius = round((radius * paper.scale).max(2.5));
            group.append(Circle::new().set("cx", x).set("cy", y).set("r", radius).set("fill", "none"));
        }
    }
    group
}

/// The head of an arrow.
fn head(from: Flat, to: Flat) -> Polygon {
    let (x, y) = (to.0 - from.0, to.1 - from.1);
    let length = x.hypot(y).max(1e-6);
    let (x, y) = (x / length * 9.0, y / length * 9.0);
    let back = (to.0 - x, to.1 - y);
    let corners = [to, (back.0 - y * 0.5, back.1 + x * 0.5), (back.0 + y * 0.5, back.1 - x * 0.5)];
    Polygon::new().set("points", corners.map(|(x, y)| (round(x), round(y))).to_vec())
}

pub(crate) fn dot(dot: Dot, (x, y): Flat, name: &str) -> Group {
    let group = Group::new().add(Title::new(name));
    let circle =
        |radius: f64, fill: &str| Circle::new().set("cx", x).set("cy", y).set("r", radius).set("fill", fill);
    match dot {
        Dot::Player => group.add(circle(5.5, "#b23a48").set("stroke", "#fdfbf5").set("stroke-width", 1)),
        Dot::Body => group.add(circle(3.4, "#33658a")),
        Dot::Thing => {
            let square = Rectangle::new().set("x", round(x - 2.5)).set("y", round(y - 2.5));
            group.add(square.set("width", 5).set("height", 5).set("fill", "#6b705c"))
        }
    }
}
