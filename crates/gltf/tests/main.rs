//! Scenes as modelling programs write them become wiring that stands where they stood.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use glam::{DMat4, DQuat, DVec3, EulerRot};
use stoicheon_core::{Catalogue, World};
use stoicheon_gltf::{Form, read, wiring};

const HARROW: &[u8] = include_bytes!("../../../demo/harrow.gltf");

fn scene(nodes: &str) -> Vec<u8> {
    scene_with(nodes, "")
}

/// A scene whose root is the first node, with a mesh that reaches from (-1, 0, -2) to (1, 1, 2).
fn scene_with(nodes: &str, more: &str) -> Vec<u8> {
    format!(
        r#"{{ "asset": {{ "version": "2.0" }}, "scenes": [{{ "nodes": [0] }}], "nodes": [{nodes}],
            "meshes": [{{ "primitives": [{{ "attributes": {{ "POSITION": 0 }} }}] }}],
            "accessors": [{{ "bufferView": 0, "componentType": 5126, "count": 2, "type": "VEC3",
                "min": [-1, 0, -2], "max": [1, 1, 2] }}],
            "bufferViews": [{{ "buffer": 0, "byteLength": 24 }}], "buffers": [{{ "byteLength": 24 }}] {more} }}"#
    )
    .into_bytes()
}

fn error(nodes: &str) -> String {
    read(&scene(nodes)).unwrap_err().to_string()
}

#[test]
fn the_demos_scene_is_wiring_without_a_fault() {
    let text = wiring(&read(HARROW).unwrap());
    insta::assert_snapshot!(text);
    let loaded = stoicheon_script::load("harrow.stoi", &text, &Catalogue::built_in());
    assert!(loaded.diagnostics().is_empty(), "{:?}", loaded.diagnostics());
}

/// Nodes turned and scaled within each other, some of them without a name: in the world each stands where it stood.
#[test]
fn what_hangs_on_something_stands_where_it_stood() {
    let turns = [(0.3, 1.1, -0.4), (2.0, -0.6, 0.9), (0.0, 3.0, 0.2), (-1.2, 0.1, 0.0)];
    let (mut nodes, mut whole, mut expected) = (Vec::new(), DMat4::IDENTITY, Vec::new());
    for (index, (x, y, z)) in turns.into_iter().enumerate() {
        let facing = DQuat::from_euler(EulerRot::XYZ, x, y, z);
        let (at, scale) = (DVec3::new(x, y * 3.0, z - 2.0), 0.5 + 0.5 * y.abs());
        whole *= DMat4::from_scale_rotation_translation(DVec3::splat(scale), facing, at);
        expected.push(whole);
        let name = if index == 1 { String::new() } else { format!(r#""name": "node {index}","#) };
        let child =
            if index + 1 < turns.len() { format!(r#", "children": [{}]"#, index + 1) } else { String::new() };
        nodes.push(format!(
            r#"{{ {name} "translation": {:?}, "rotation": {:?}, "scale": {:?} {child} }}"#,
            at.to_array(),
            facing.to_array(),
            [scale; 3],
        ));
    }
    let text = wiring(&read(&scene(&nodes.join(","))).unwrap());
    let loaded = stoicheon_script::load("nodes.stoi", &text, &Catalogue::built_in());
    assert!(!loaded.has_errors(), "{text}");
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    for index in [0, 2, 3] {
        let object = world.find(&format!("node_{index}")).unwrap();
        let pose = world.pose_at(object, 1.0).unwrap();
        let (_, facing, at) = expected[index].to_scale_rotation_translation();
        assert!(pose.at.as_dvec3().distance(at) < 1e-3, "{index}: {} and {at}", pose.at);
        let seen = pose.facing.quat().as_dquat();
        assert!(seen.angle_between(facing) < 1e-3, "{index}: {seen} and {facing}");
    }
    assert!(world.find("node_1").is_none());
}

#[test]
fn a_shape_is_as_large_as_what_is_seen_of_it() {
    let nodes = r#"{ "name": "quay", "scale": [2, 2, 2], "children": [1, 2] },
        { "name": "weir", "mesh": 0, "scale": [1, -3, 1], "extras": { "zone": "box", "pick": "ball" } },
        { "name": "pool", "mesh": 0, "extras": { "zone": "ball" } }"#;
    let places = read(&scene(nodes)).unwrap();
    let weir = &places[1];
    let kinds: Vec<_> = weir.parts.iter().map(|(kind, ..)| kind.as_str()).collect();
    assert_eq!(kinds, ["pick", "zone"]);
    assert_eq!(weir.parts[1].1, Form::Box(DVec3::new(4.0, 6.0, 8.0)));
    assert_eq!(weir.parts[0].1, Form::Ball(4.0));
    // Mirrored, it reaches down.
    let middle = weir.facing * weir.parts[1].2;
    assert!(middle.distance(DVec3::new(0.0, -3.0, 0.0)) < 1e-9, "{middle}");
    assert_eq!(places[2].parts, [("zone".to_owned(), Form::Ball(4.0), DVec3::new(0.0, 1.0, 0.0))]);
}

#[test]
fn what_is_wrong_with_a_scene_is_said_with_the_node() {
    for (nodes, expected) in [
        (
            r#"{ "name": "a b", "children": [1] }, { "name": "a_b" }"#,
            "\"a b\" and \"a_b\" would both be the object a_b",
        ),
        (
            r#"{ "name": "a", "children": [1] }, { "name": "b", "children": [0] }"#,
            "the node a stands in two places",
        ),
        (r#"{ "children": [0] }"#, "the node 0 stands in two places"),
        (
            r#"{ "name": "gate", "extras": { "zone": "box" } }"#,
            "\"gate\" is to be a zone and has no mesh with extents",
        ),
        (
            r#"{ "name": "pad", "mesh": 0, "scale": [1, 0, 1], "extras": { "zone": "box" } }"#,
            "\"pad\" is to be a zone and is flat: its mesh reaches 0 along y",
        ),
        (
            r#"{ "name": "gate", "extras": { "spot": "yes" } }"#,
            "expected spot as true or false, found \"yes\"",
        ),
        (
            r#"{ "name": "gate", "extras": { "spot": true, "tags": "old" } }"#,
            "with tags and parts, found both",
        ),
        (r#"{ "children": [1] }, {}"#, "no node of the scene has a name"),
        (r#"{ "name": "gate", "extras": { "tags": ["gate"] } }"#, "expected tags as one text"),
        (
            r#"{ "scale": [1, 4, 1], "children": [1] }, { "name": "oar", "rotation": [0.38268343, 0, 0, 0.92387953] }"#,
            "\"oar\" is slanted",
        ),
        (
            r#"{ "name": "far", "translation": [3e38, 0, 0], "children": [1] }, { "name": "b", "translation": [3e38, 0, 0] }"#,
            "\"b\" has no place",
        ),
    ] {
        let error = error(nodes);
        assert!(error.contains(expected), "{error}");
    }
    let old = read(br#"{ "asset": { "version": "1.0" } }"#).unwrap_err().to_string();
    assert_eq!(old, "expected glTF 2.0, found version 1.0");
    for bytes in [&b""[..], b"{}", b"glTF\x02\x00\x00\x00", b"\xff\xfe", &HARROW[..200]] {
        assert!(read(bytes).unwrap_err().to_string().starts_with("expected glTF 2.0"));
    }
}

#[test]
fn what_is_for_the_eye_alone_is_passed_over() {
    let nodes = r#"{ "name": "2nd gate", "extras": { "tags": "gate,  old", "painted": true, "note": "box of paint", "my kind": "box" } }"#;
    assert_eq!(wiring(&read(&scene(nodes)).unwrap()), "object _2nd_gate at (0, 0, 0) tags gate, old\n");
    assert_eq!(wiring(&read(&scene(r#"{ "name": "a", "extras": 3 }"#)).unwrap()), "object a at (0, 0, 0)\n");
    let steps = r#"{ "name": "quay", "translation": [1, 0, 0], "children": [1] },
        { "name": "steps", "translation": [0, 0, 2], "extras": { "spot": 1 }, "children": [2] },
        { "name": "rail", "translation": [0, 1, 0], "extras": { "spot": false } }"#;
    assert_eq!(
        wiring(&read(&scene(steps)).unwrap()),
        "object quay at (1, 0, 0)\nspot steps at (1, 0, 2)\nobject rail at (0, 1, 2) of quay\n"
    );
}

/// A line of nodes is as long as it likes.
#[test]
fn a_scene_may_be_deep() {
    let last = 20_000;
    let node = |index: usize| match index {
        index if index == last => r#"{ "name": "lamp" }"#.to_owned(),
        index => format!(r#"{{ "translation": [0, 0.5, 0], "children": [{}] }}"#, index + 1),
    };
    let nodes: Vec<_> = (0..=last).map(node).collect();
    assert_eq!(wiring(&read(&scene(&nodes.join(","))).unwrap()), "object lamp at (0, 10000, 0)\n");
}
