//! q
#![allow(missing_docs)]
use stoicheon::*;
payload! { #[derive(Clone, Copy)] struct Rung { strokes: f64 } }
fn main() {
    let fan: u32 = std::env::args().nth(1).unwrap().parse().unwrap();
    let full = std::env::args().nth(2).is_some();
    let mut w = World::<f64>::with(Config {
        trace: if full { TraceLevel::Full } else { TraceLevel::Off },
        kept: 8192,
        ..Config::default()
    });
    let s = w.signal::<Rung>("rung").unwrap();
    for k in 0..fan {
        let k = f64::from(k);
        w.on(s).run(move |g: &mut f64, r, _| *g += r.strokes * k).unwrap();
    }
    let go = w.signal::<()>("go").unwrap();
    w.on(go)
        .run(move |_: &mut f64, (), cx| {
            for _ in 0..1000 {
                cx.emit(s, Rung { strokes: 1.0 }).unwrap();
            }
        })
        .unwrap();
    let mut g = 0.0;
    for _ in 0..200 {
        w.emit(go, ()).unwrap();
        w.step(&mut g).unwrap();
    }
    println!("{g}");
}
