//! What two texts have in common.

/// How many bytes two texts share at their start and at their end.
pub(super) fn common(a: &str, b: &str) -> (usize, usize) {
    let head: usize = a
        .chars()
        .zip(b.chars())
        .take_while(|(x, y)| x == y)
        .map(|(x, _)| x.len_utf8())
        .sum();
    let tail: usize = a[head..]
        .chars()
        .rev()
        .zip(b[head..].chars().rev())
        .take_while(|(x, y)| x == y)
        .map(|(x, _)| x.len_utf8())
        .sum();
    (head, tail)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_two_lines_share() {
        let cases = [
            ("a=D:\\x", "a=H:\\C\\x", (2, 2)),
            ("aa", "aaa", (2, 0)),
            ("\u{e9}x", "\u{e9}y", (2, 0)),
            ("", "a", (0, 0)),
        ];
        for (a, b, expected) in cases {
            assert_eq!(common(a, b), expected, "{a} {b}");
        }
    }
}
