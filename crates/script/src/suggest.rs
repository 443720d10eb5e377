//! What somebody may have meant who misspelled a name.

/// The word with its article.
pub(crate) fn a(word: &str) -> String {
    match word {
        "one of" => "one word of a list".to_owned(),
        "text" => "text".to_owned(),
        "whole" => "a whole number".to_owned(),
        _ => {
            let vowel = word.starts_with(['a', 'e', 'i', 'o', 'u']) && !word.starts_with("use");
            let article = if vowel { "an" } else { "a" };
            format!("{article} {word}")
        }
    }
}

/// The name closest to a misspelled one, if any is close.
pub(crate) fn nearest<'n>(found: &str, names: impl Iterator<Item = &'n str>) -> Option<&'n str> {
    // A name that is absurdly long is no slip of the pen.
    if found.len() > 64 {
        return None;
    }
    let allowed = (found.chars().count() / 3).max(1);
    names
        .filter(|name| name.len().abs_diff(found.len()) <= 4 * allowed)
        .map(|name| (strsim::osa_distance(found, name), name))
        .filter(|(distance, _)| *distance <= allowed)
        .min()
        .map(|(_, name)| name)
}

/// "did you mean", or the list of what there is, if that is short.
pub(crate) fn suggest<'n>(found: &str, kind: &str, names: impl Iterator<Item = &'n str> + Clone) -> String {
    if let Some(near) = nearest(found, names.clone()) {
        return format!("did you mean `{near}`?");
    }
    let mut seen = std::collections::BTreeSet::new();
    let known: Vec<_> = names.filter(|name| seen.insert(*name)).collect();
    match known.len() {
        0 => format!("there is no {kind} here at all"),
        1..=24 => format!("there are: {}", known.join(", ")),
        many => format!("none of the {many} names of {} is similar", a(kind)),
    }
}
