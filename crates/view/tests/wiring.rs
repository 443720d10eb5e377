//! Wiring graphs.

use stoicheon_core::{Door, Expr, Step, Steps, Vec3, World, Zone, secs};
use stoicheon_view::WiringGraph;

use crate::pictures::{find, has, texts, titles};

fn lock() -> World<()> {
    let mut world = World::<()>::new();
    let level = world.var("level", 0.4).unwrap();
    let (bell, lost) =
        (world.declare_signal::<()>("bell").unwrap(), world.declare_signal::<()>("lost").unwrap());
    let pad = world.object("towpath_pad").add().unwrap();
    let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let gate = world.object("upper_gate").tag("gate").add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0)).unwrap();
    let rings = Step::Emit { signal: bell.id(), values: Vec::new() };
    let drowns = Step::Emit { signal: lost.id(), values: Vec::new() };
    world
        .on(pad.entered)
        .by("keeper")
        .when(Expr::var(level).more_than(0.95))
        .order(10)
        .cooldown(secs(2.0))
        .run_steps(Steps::new().open(gate).step(rings))
        .unwrap();
    world.on(bell).run_steps(Steps::new().close(gate).step(drowns)).unwrap();
    world.on(gate.opened).run(|(), (), _| {}).unwrap();
    world
}

#[test]
fn wires_stand_between_what_causes_them_and_what_they_lead_to() {
    let world = lock();
    let svg = WiringGraph::new("Harrow Lock").draw(&world);
    for words in
        ["towpath_pad", "upper_gate", "bell", "entered", "open", "emit", "order 10, cooldown 2s", "by keeper"]
    {
        assert!(has(&svg, words), "{words}: {:?}", texts(&svg));
    }
    assert!(has(&svg, "when level > 0.95") && has(&svg, "a closure of the game"));
    let ((pad, _), (gate, _)) = (find(&svg, "towpath_pad"), find(&svg, "upper_gate"));
    assert!(pad < gate, "causes stand left of what they lead to");
    // A signal that is sent and that nobody takes.
    assert!(has(&svg, "nobody takes it"));
    // How often is said of what has run.
    assert!(!titles(&svg).iter().any(|title| title.contains("taken")));
    // The same world, the same picture.
    assert_eq!(svg, WiringGraph::new("Harrow Lock").draw(&world));
}

#[test]
fn a_part_of_it_is_what_is_near_to_a_name() {
    let world = lock();
    let graph = WiringGraph::new("Around");
    let svg = graph.draw_around(&world, "towpath_pad", 1).unwrap();
    assert!(has(&svg, "upper_gate") && has(&svg, "bell") && !has(&svg, "lost"), "{:?}", texts(&svg));
    assert!(has(&graph.draw_around(&world, "towpath_pad", 2).unwrap(), "lost"));
    let missing = graph.draw_around(&world, "toll_gate", 1).unwrap_err();
    assert!(missing.to_string().contains("found toll_gate"));
}

#[test]
fn a_thousand_things_with_three_thousand_ways_are_drawn_and_no_box_covers_another() {
    let mut world = World::<()>::new();
    let bells: Vec<_> =
        (0..250).map(|number| world.declare_signal::<()>(&format!("bell_{number}")).unwrap()).collect();
    for number in 0..750_usize {
        let next = |step: usize| Step::Emit {
            signal: bells[(number * 7 + step * 31) % 250].id(),
            values: Vec::new(),
        };
        world.on(bells[number % 250]).run_steps(vec![next(1), next(2), next(3)]).unwrap();
    }
    let svg = WiringGraph::new("Many").draw(&world);
    let tree = roxmltree::Document::parse(&svg).unwrap();
    let number =
        |node: &roxmltree::Node<'_, '_>, name: &str| node.attribute(name).unwrap().parse::<f64>().unwrap();
    let mut boxes: Vec<[f64; 4]> = tree
        .descendants()
        .filter(|node| node.has_tag_name("rect") && node.attribute("rx").is_some())
        .map(|node| ["x", "y", "width", "height"].map(|name| number(&node, name)))
        .collect();
    assert!(boxes.len() > 3000, "{}", boxes.len());
    boxes.sort_by(|one, two| one[1].total_cmp(&two[1]));
    for (index, [x, y, width, height]) in boxes.iter().enumerate() {
        for [other_x, other_y, other_width, _] in
            boxes[index + 1..].iter().take_while(|other| other[1] < y + height - 1.0)
        {
            let apart = *other_x >= x + width - 1.0 || *x >= other_x + other_width - 1.0;
            assert!(apart, "at {x}, {y} and {other_x}, {other_y}");
        }
    }
}
