//! The game of `examples/host.rs`, played without a window.

#[path = "../examples/host.rs"]
#[expect(dead_code, reason = "`main` is for who runs the example")]
mod game;

#[test]
fn the_small_game_shows_what_it_should() {
    insta::assert_snapshot!(game::play().unwrap().join("\n"), @r#"
    [use] Wind the gate, held 0%
    [use] Wind the gate, held 25%
    [use] Wind the gate, held 50%
    [use] Wind the gate, held 75%
    [use] Wind the gate, held 0%
    "Light!"
    gates opened: 1, lights out: 1
    eight ticks back and forward again: the same
    the day after: the gate is open by 1
    the longest step on the screen: 0.064
    "#);
}
