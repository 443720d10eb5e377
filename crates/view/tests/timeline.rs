//! Timelines.

use stoicheon_core::{Door, Expr, Rotation, Step, Steps, Value, Vec3, World, Zone, secs};
use stoicheon_view::Timeline;

use crate::pictures::{find, has, texts, titles};

fn walked() -> World<()> {
    let mut world = World::<()>::new();
    let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
    let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let gate = world.object("upper_gate").add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0).over(secs(1.0))).unwrap();
    let level = world.var("level", 0.4).unwrap();
    let ada = world.player("ada").add().unwrap();
    world
        .on(pad.entered)
        .run_steps(Steps::new().open(gate).wait(secs(1.5)).close(gate).set(level, 0.9))
        .unwrap();
    world.on(pad.left).when(Expr::var(level).more_than(0.95)).run_steps([]).unwrap();
    world.walk(ada, Vec3::new(9.0, 0.0, 0.0), 4.0).unwrap();
    (0..150).for_each(|_| world.step(&mut ()).unwrap());
    world
}

#[test]
fn players_objects_and_changes_have_lanes_with_spans_and_instants() {
    let world = walked();
    let svg = Timeline::new("A walk").with(&world).draw();
    for words in
        ["ada", "walks", "in towpath_pad", "upper_gate", "opening", "entered", "variables", "level = 0.9"]
    {
        assert!(has(&svg, words), "{words}: {:?}", texts(&svg));
    }
    assert!(has(&svg, "refused by all") && has(&svg, "reaction that waits"));
    assert!(texts(&svg).iter().any(|(words, ..)| words.ends_with("waits")));
    // Players come before objects, and what is later is farther right.
    assert!(find(&svg, "ada").1 < find(&svg, "upper_gate").1);
    assert!(find(&svg, "closing").0 > find(&svg, "opening").0);
    assert!(titles(&svg).iter().any(|title| title.contains("ada sets out for (9, 0, 0)")));
    let links = svg.matches("stroke-width=\"1.2\"").count();
    assert!(links > 5, "{links}");
}

#[test]
fn who_is_sent_somewhere_walks_no_longer() {
    let mut world = World::<()>::new();
    let steps = world.spot_at("steps", None, Vec3::new(0.0, 0.0, 9.0), Rotation::NONE).unwrap();
    let pool = world.object("pool").at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
    let pool = world.attach(pool, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let send = Step::Send { who: Expr::Who, spot: Expr::Value(Value::Spot(steps)) };
    world.on(pool.entered).run_steps(vec![send]).unwrap();
    let ada = world.player("ada").add().unwrap();
    world.walk(ada, Vec3::new(90.0, 0.0, 0.0), 4.0).unwrap();
    (0..150).for_each(|_| world.step(&mut ()).unwrap());
    let svg = Timeline::new("Sent").with(&world).draw();
    let tree = roxmltree::Document::parse(&svg).unwrap();
    let walks = tree.descendants().find(|node| {
        node.has_tag_name("rect")
            && node.attribute("fill") == Some("#f0cfd4")
            && node.attribute("height") == Some("14")
    });
    let width = walks.unwrap().attribute("width").unwrap().parse::<f64>().unwrap();
    assert!(width < 200.0, "{width} of a thousand: the walk ended after less than a second of five");
}

#[test]
fn who_is_still_inside_two_zones_at_the_end_has_a_bar_for_each() {
    let mut world = World::<()>::new();
    for name in ["pad", "yard"] {
        let zone = world.object(name).at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
        world.attach(zone, Zone::boxed(Vec3::splat(2.0))).unwrap();
    }
    let ada = world.player("ada").add().unwrap();
    world.walk(ada, Vec3::new(4.0, 0.0, 0.0), 4.0).unwrap();
    (0..150).for_each(|_| world.step(&mut ()).unwrap());
    let svg = Timeline::new("Two").with(&world).draw();
    let tree = roxmltree::Document::parse(&svg).unwrap();
    let is_inside = |node: &roxmltree::Node<'_, '_>| {
        let long = node.attribute("width").is_some_and(|width| width.parse::<f64>().unwrap() > 300.0);
        node.has_tag_name("rect") && node.attribute("fill") == Some("#f3d9b1") && long
    };
    assert_eq!(tree.descendants().filter(is_inside).count(), 2);
}

#[test]
fn a_window_of_time_leaves_the_rest_out() {
    let world = walked();
    let svg = Timeline::new("Late").with(&world).from(3.0).to(4.0).draw();
    assert!(!has(&svg, "opening") && has(&svg, "3s") && !has(&svg, "2s"), "{:?}", texts(&svg));
    // Of nothing at all there is a picture too.
    assert!(has(&Timeline::new("Nothing").draw(), "Nothing"));
    for (from, to) in [(4.0, 3.0), (0.5, 0.2), (900.0, 901.0)] {
        assert!(has(&Timeline::new("Odd").with(&world).from(from).to(to).draw(), "Odd"));
    }
}
