//! What a part is after its settings were written otherwise.

use crate::base::value::Value;

/// What comes out, and whether what the part was is in it.
#[derive(Debug, PartialEq)]
pub(super) enum Merged {
    /// Nothing had become of the part since it was built, or both agree.
    Built,
    /// What it is and what is written now, together.
    Both(Vec<Value>),
    /// They cannot be told apart: it begins again.
    Apart,
}

/// Puts together what a part is `now` and what is written `after`, by what it was when it was built as written `before`: all
/// three as the part saves itself, settings and what became of them, number by number. What the text changes is changed;
/// what play has changed stays.
pub(super) fn merged(before: &[Value], now: &[Value], after: &[Value]) -> Merged {
    if before == now || now == after {
        return Merged::Built;
    }
    // Behind what both texts say may come more that has gathered since, such as who is asked.
    if before.len() != after.len() || now.len() < before.len() {
        return Merged::Apart;
    }
    let (own, more) = now.split_at(before.len());
    let each = before.iter().zip(own).zip(after);
    let each = each.map(|((before, now), after)| if before == now { after } else { now });
    Merged::Both(each.chain(more).cloned().collect())
}

#[cfg(test)]
mod tests {
    use super::{Merged, merged};
    use crate::base::value::Value;

    fn values(numbers: &[i64]) -> Vec<Value> {
        numbers.iter().copied().map(Value::from).collect()
    }

    #[test]
    fn what_the_text_changes_is_changed_and_what_play_has_changed_stays() {
        let merge = |before: &[i64], now: &[i64], after: &[i64]| {
            merged(&values(before), &values(now), &values(after))
        };
        assert_eq!(merge(&[1, 0], &[1, 0], &[2, 0]), Merged::Built);
        assert_eq!(merge(&[1, 0], &[1, 7], &[2, 0]), Merged::Both(values(&[2, 7])));
        assert_eq!(merge(&[1, 0], &[3, 7], &[2, 0]), Merged::Both(values(&[3, 7])));
        assert_eq!(merge(&[1, 0], &[1, 7, 8, 9], &[2, 0]), Merged::Both(values(&[2, 7, 8, 9])));
        assert_eq!(merge(&[1, 0], &[1, 7], &[2, 5, 0]), Merged::Apart);
        assert_eq!(merge(&[1, 0, 0], &[1], &[2, 0, 0]), Merged::Apart);
    }
}
