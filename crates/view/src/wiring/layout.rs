//! Where the nodes of a wiring graph stand: in layers from left to right, each part of the graph that hangs together below the
//! last.

use rust_sugiyama::configure::{Config, RankingType};

use crate::wiring::graph::Graph;

/// A node on paper: its left upper corner and its size, in pixels.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Frame {
    pub(crate) left: f64,
    pub(crate) top: f64,
    pub(crate) width: f64,
    pub(crate) height: f64,
}

/// Between two nodes of a layer.
const BETWEEN: f64 = 14.0;
/// Between two layers, besides.
const LAYERS: f64 = 58.0;
/// Between two parts of the graph.
const APART: f64 = 26.0;
/// Between two that stand side by side, with room for what leads back.
const BESIDE: f64 = 70.0;
/// With more edges than that, swapping neighbours to spare crossings would take too long.
const SWAPS: usize = 160;

/// The boxes of the nodes, whose sizes are given, and the size of the whole.
pub(crate) fn layout(graph: &Graph, sizes: &[(f64, f64)]) -> (Vec<Frame>, (f64, f64)) {
    let edges = forward_edges(graph);
    let mut boxes: Vec<Frame> = sizes
        .iter()
        .map(|(width, height)| Frame { width: *width, height: *height, ..Frame::default() })
        .collect();
    let number = |index: usize| u32::try_from(index).unwrap_or(u32::MAX);
    // Layers go downwards there, and to the right here: the sides of each node are swapped.
    let vertices: Vec<(u32, (f64, f64))> =
        sizes.iter().enumerate().map(|(index, (width, height))| (number(index), (*height, *width))).collect();
    let pairs: Vec<(u32, u32)> = edges.iter().map(|(from, to)| (number(*from), number(*to))).collect();
    let config = Config {
        vertex_spacing: BETWEEN,
        ranking_type: RankingType::Up,
        transpose: pairs.len() <= SWAPS,
        ..Config::default()
    };
    let mut parts: Vec<Vec<(usize, (f64, f64))>> =
        rust_sugiyama::from_vertices_and_edges(&vertices, &pairs, &config)
            .into_iter()
            .map(|(places, ..)| {
                let mut places: Vec<_> = places.into_iter().collect();
                // They come in no order.
                places.sort_by_key(|(index, _)| *index);
                places
            })
            .collect();
    // The part with the first node comes first, and lone nodes last.
    parts.sort_by_key(|part| (part.len() == 1, part.first().map(|(index, _)| *index)));
    for part in &parts {
        spread(part, &mut boxes);
    }
    let extents: Vec<_> = parts.iter().map(|part| extent(part, &boxes)).collect();
    let area: f64 =
        extents.iter().map(|(least, most)| (most.0 - least.0 + BESIDE) * (most.1 - least.1 + APART)).sum();
    // As wide as it is high, about, and the page at least.
    let across = ROW.max((area * 1.5).sqrt());
    let (mut top, mut widest) = (0.0, 0.0_f64);
    let mut row = Row::default();
    for (part, (least, most)) in parts.iter().zip(extents) {
        let (width, height) = (most.0 - least.0, most.1 - least.1);
        // Small parts stand side by side.
        if row.width > 0.0 && row.width + width > across {
            top += row.height + APART;
            row = Row::default();
        }
        for (index, _) in part {
            boxes[*index].left += row.width - least.0;
            boxes[*index].top += top - least.1;
        }
        row.width += width + BESIDE;
        row.height = row.height.max(height);
        widest = widest.max(row.width - BESIDE);
    }
    (boxes, (widest, top + row.height))
}

/// Parts that stand side by side.
#[derive(Default)]
struct Row {
    width: f64,
    height: f64,
}

/// How wide a row of parts may be in any case.
const ROW: f64 = 1180.0;

/// Puts the layers as far apart as their widest nodes need.
fn spread(part: &[(usize, (f64, f64))], boxes: &mut [Frame]) {
    let mut layers: Vec<(i64, Vec<usize>)> = Vec::new();
    for (index, (across, along)) in part {
        boxes[*index].top = across - boxes[*index].height / 2.0;
        #[expect(clippy::cast_possible_truncation, reason = "a place on paper")]
        let layer = along.round() as i64;
        match layers.iter_mut().find(|(other, _)| (*other - layer).abs() <= 1) {
            Some((_, nodes)) => nodes.push(*index),
            None => layers.push((layer, vec![*index])),
        }
    }
    layers.sort_by_key(|(layer, _)| *layer);
    let mut left = 0.0;
    for (_, nodes) in layers {
        let widest = nodes.iter().map(|index| boxes[*index].width).fold(0.0, f64::max);
        for index in nodes {
            boxes[index].left = left;
        }
        left += widest + LAYERS + BETWEEN;
    }
}

fn extent(part: &[(usize, (f64, f64))], boxes: &[Frame]) -> ((f64, f64), (f64, f64)) {
    let all = part.iter().map(|(index, _)| boxes[*index]);
    let least = all
        .clone()
        .fold((f64::INFINITY, f64::INFINITY), |least, next| (least.0.min(next.left), least.1.min(next.top)));
    let most = all.fold((0.0_f64, f64::NEG_INFINITY), |most, next| {
        (most.0.max(next.left + next.width), most.1.max(next.top + next.height))
    });
    (least, most)
}

/// The edges without those that lead back to where they came from: they are found in depth, in the order of the nodes.
fn forward_edges(graph: &Graph) -> Vec<(usize, usize)> {
    let count = graph.vertices.len();
    let mut out: Vec<Vec<usize>> = vec![Vec::new(); count];
    for edge in &graph.edges {
        if edge.from != edge.to && !out[edge.from].contains(&edge.to) {
            out[edge.from].push(edge.to);
        }
    }
    let mut has_source = vec![false; count];
    out.iter().flatten().for_each(|to| has_source[*to] = true);
    // 0 not seen, 1 on the way, 2 done.
    let mut seen = vec![0_u8; count];
    let mut found = Vec::new();
    // Those that nothing leads to begin.
    let starts = (0..count).filter(|index| !has_source[*index]).chain(0..count);
    for start in starts {
        if seen[start] != 0 {
            continue;
        }
        seen[start] = 1;
        let mut way = vec![(start, 0)];
        while let Some((at, next)) = way.last_mut() {
            let (from, number) = (*at, *next);
            *next += 1;
            match out[from].get(number) {
                Some(to) if seen[*to] == 1 => {}
                Some(to) => {
                    found.push((from, *to));
                    if seen[*to] == 0 {
                        seen[*to] = 1;
                        way.push((*to, 0));
                    }
                }
                None => {
                    seen[from] = 2;
                    way.pop();
                }
            }
        }
    }
    found
}
