//! Where URLs are in attributes and styles that hold more than one thing.

use std::ops::Range;

/// The URLs of a list of pictures, each with a width or a density after it (HTML, `srcset`).
pub(super) fn of_picture_list(text: &str) -> Vec<Range<usize>> {
    let mut all = Vec::new();
    let mut at = 0;
    while at < text.len() {
        let rest = &text[at..];
        let start = at + rest.len() - rest.trim_start_matches([' ', '\t', '\n', '\r', ',']).len();
        let url = text[start..]
            .find(char::is_whitespace)
            .map_or(text.len(), |length| start + length);
        let end = start + text[start..url].trim_end_matches(',').len();
        if end > start {
            all.push(start..end);
        }
        // A comma after the URL ends the picture; else one after its width does.
        at = if end < url {
            url
        } else {
            text[url..]
                .find(',')
                .map_or(text.len(), |length| url + length)
        };
    }
    all
}

/// A URL of a style sheet (CSS Values, `url()`), and whether it is in quotes.
pub(super) struct StyleUrl {
    pub(super) inside: Range<usize>,
    pub(super) quoted: bool,
}

/// The URLs of a style sheet, in order.
pub(super) fn of_style(text: &str) -> Vec<StyleUrl> {
    let bytes = text.as_bytes();
    let mut all = Vec::new();
    let mut at = 0;
    while let Some(found) = memchr::memchr(b'(', &bytes[at..]) {
        let open = at + found;
        at = open + 1;
        let named = open >= 3 && bytes[open - 3..open].eq_ignore_ascii_case(b"url");
        if !named {
            continue;
        }
        let start = at
            + bytes[at..]
                .iter()
                .take_while(|b| b.is_ascii_whitespace())
                .count();
        let quote = bytes
            .get(start)
            .copied()
            .filter(|b| matches!(b, b'"' | b'\''));
        let (from, close) = match quote {
            Some(quote) => (start + 1, quote),
            None => (start, b')'),
        };
        let Some(length) = memchr::memchr(close, &bytes[from..]) else {
            return all;
        };
        let inside = from..from + text[from..from + length].trim_end().len();
        at = from + length + 1;
        if !inside.is_empty() {
            all.push(StyleUrl {
                inside,
                quoted: quote.is_some(),
            });
        }
    }
    all
}

/// Attributes of HTML that hold one URL.
pub(super) const URLS: [&str; 9] = [
    "href",
    "src",
    "action",
    "data",
    "poster",
    "background",
    "cite",
    "longdesc",
    "formaction",
];

/// Whether a URL begins with a scheme, which is not a drive's letter.
pub(super) fn has_scheme(raw: &str) -> bool {
    raw.split_once(':').is_some_and(|(scheme, _)| {
        scheme.len() > 1
            && scheme
                .bytes()
                .all(|b| b.is_ascii_alphanumeric() || b"+-.".contains(&b))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn urls_and_what_is_around_them() {
        let lists: [(&str, &[&str]); 4] = [
            ("a.png", &["a.png"]),
            ("a.png 1x, D:/b,c.png 2x", &["a.png", "D:/b,c.png"]),
            (" a.png, b.png 100w ,c.png", &["a.png", "b.png", "c.png"]),
            ("", &[]),
        ];
        for (text, expected) in lists {
            let got: Vec<&str> = of_picture_list(text)
                .into_iter()
                .map(|r| &text[r])
                .collect();
            assert_eq!(got, expected, "{text}");
        }
        let styles: [(&str, &[(&str, bool)]); 3] = [
            (
                "b { c: url(D:/a.png) } d { e: URL( 'D:/b c.png' ) }",
                &[("D:/a.png", false), ("D:/b c.png", true)],
            ),
            ("a: rgb(1, 2, 3); b: url(\"x\")", &[("x", true)]),
            ("a: url(open", &[]),
        ];
        for (text, expected) in styles {
            let got: Vec<(&str, bool)> = of_style(text)
                .into_iter()
                .map(|url| (&text[url.inside], url.quoted))
                .collect();
            assert_eq!(got, expected, "{text}");
        }
    }
}
