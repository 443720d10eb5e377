//! Pictures, read back.

/// The texts of a picture, each with where it stands.
pub(crate) fn texts(svg: &str) -> Vec<(String, f64, f64)> {
    let tree = roxmltree::Document::parse(svg).unwrap();
    let number =
        |node: &roxmltree::Node<'_, '_>, name: &str| node.attribute(name).unwrap().parse::<f64>().unwrap();
    let all = tree.descendants().filter(|node| node.has_tag_name("text"));
    all.map(|node| {
        let words: String = node.text().unwrap_or_default().to_owned();
        (words.trim().to_owned(), number(&node, "x"), number(&node, "y"))
    })
    .collect()
}

/// Where a text stands.
#[track_caller]
pub(crate) fn find(svg: &str, words: &str) -> (f64, f64) {
    let all = texts(svg);
    let found = all.iter().find(|(text, ..)| text == words);
    let (_, x, y) = found.unwrap_or_else(|| panic!("no \"{words}\" in {all:?}"));
    (*x, *y)
}

pub(crate) fn has(svg: &str, words: &str) -> bool {
    texts(svg).iter().any(|(text, ..)| text == words)
}

/// What who points at something is told.
pub(crate) fn titles(svg: &str) -> Vec<String> {
    let tree = roxmltree::Document::parse(svg).unwrap();
    let all = tree.descendants().filter(|node| node.has_tag_name("title"));
    all.map(|node| node.text().unwrap_or_default().trim().to_owned()).collect()
}

/// The pairs of names of a map that would cover each other, as wide as letters are on the average.
pub(crate) fn covered(svg: &str, size: f64) -> Vec<(String, String)> {
    let tree = roxmltree::Document::parse(svg).unwrap();
    let names: Vec<_> = tree
        .descendants()
        .filter(|node| node.has_tag_name("text") && node.attribute("text-anchor") == Some("middle"))
        .map(|node| {
            let words: String = node.text().unwrap_or_default().to_owned();
            let at = |name| node.attribute(name).unwrap().parse::<f64>().unwrap();
            (words.trim().to_owned(), at("x"), at("y"))
        })
        .collect();
    let half = |words: &str| f64::from(u32::try_from(words.chars().count()).unwrap()) * size * 0.53 / 2.0;
    let mut pairs = Vec::new();
    for (index, (one, x, y)) in names.iter().enumerate() {
        for (two, other_x, other_y) in &names[index + 1..] {
            if (x - other_x).abs() < half(one) + half(two) && (y - other_y).abs() < size {
                pairs.push((one.clone(), two.clone()));
            }
        }
    }
    pairs
}
