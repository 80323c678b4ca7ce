//! Markup: XML 1.0 of any kind, and HTML, which forgives more.
//!
//! Yields attribute values, text, CDATA, comments, processing instructions, and the quoted
//! strings of a document type. In HTML the text is running text, scripts are read as
//! JavaScript, and no element need be closed.

mod dialect;
mod page;
mod reader;
mod runs;
mod tag;
mod urls;
mod walk;
mod wrappings;

use crate::about::About;
use crate::format::{Claim, Format, Reader, Sample, Subject};
use crate::text::Encoding;

use wrappings::Wrappings;

/// XML.
pub(super) struct Xml;

/// HTML.
pub(super) struct Html;

const XML: About = About {
    name: "xml",
    what: "XML of any kind: settings, SVG, playlists, property lists",
    content: "<?xml, or an element at its start",
    names: &[
        ".xml",
        ".svg",
        ".xspf",
        ".wpl",
        ".plist",
        ".xsl",
        ".xslt",
        ".xsd",
        ".xaml",
        ".xhtml",
        ".rss",
        ".gpx",
        ".kml",
        ".wsf",
        ".resx",
        ".manifest",
        ".vcxproj",
        ".csproj",
        ".props",
        ".targets",
    ],
    read: "attributes, text, CDATA, comments, scripts and styles, with entities as the document has them, in the declared encoding",
    limits: "a document with a signature in it is sealed; entities that the document declares itself are not expanded",
};

impl Format for Xml {
    fn about(&self) -> &About {
        &XML
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let start = text.trim_start();
        let named = XML.is_named(file_name);
        let element = start.strip_prefix('<').is_some_and(|rest| {
            rest.starts_with(|c: char| c.is_alphabetic() || c == '_' || c == '!')
        });
        if start.starts_with("<?xml") || named {
            Claim::IfWellFormed
        } else if element {
            Claim::Perhaps
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.xml", "<a>", "<b c=\"", "\"/>\n").ending_with("</a>"),
            Sample::new("a.xml", "<a>", "<b>", "</b>\n").ending_with("</a>"),
        ];
        SAMPLES
    }

    fn is_markup(&self) -> bool {
        true
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn declared_encoding(&self, text: &str) -> Option<Encoding> {
        let head = text.trim_start().strip_prefix("<?xml")?;
        let head = &head[..head.find("?>")?];
        Encoding::for_label(quoted_behind(head, "encoding")?)
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings::of(text, false))
    }
}

const HTML: About = About {
    name: "html",
    what: "web pages",
    content: "<!doctype html> or <html> at its start",
    names: &[".html", ".htm", ".hta"],
    read: "attributes, srcset, style, script strings, text and comments, with character references",
    limits: "what a script puts together from pieces is not seen",
};

impl Format for Html {
    fn about(&self) -> &About {
        &HTML
    }

    fn claims(&self, subject: &Subject<'_>) -> Claim {
        let (text, file_name) = (subject.text, subject.file_name);
        let start = text.trim_start();
        let named = HTML.is_named(file_name);
        if !named && !start.starts_with('<') {
            return Claim::No;
        }
        let head: String = start.chars().take(200).collect::<String>().to_lowercase();
        let started = head.starts_with("<!doctype html") || head.starts_with("<html");
        if (named && head.contains('<')) || (started && !file_name.ends_with(".xhtml")) {
            Claim::IfWellFormed
        } else {
            Claim::No
        }
    }

    fn samples(&self) -> &'static [Sample] {
        const SAMPLES: &[Sample] = &[
            Sample::new("a.html", "<html>", "<a href=\"", "\">x</a>\n"),
            Sample::new("a.html", "<html>", "<img srcset=\"", ", x 2x\">\n"),
            Sample::new("a.html", "<html><style>", "a{b:url(", ")}\n"),
        ];
        SAMPLES
    }

    fn is_markup(&self) -> bool {
        true
    }

    fn own_encoding(&self) -> Option<Encoding> {
        Some(Encoding::Utf8)
    }

    fn declared_encoding(&self, text: &str) -> Option<Encoding> {
        let mut end = text.len().min(1024);
        while !text.is_char_boundary(end) {
            end -= 1;
        }
        let head = &text[..end];
        let at = head.to_ascii_lowercase().find("charset")?;
        let rest = head[at + "charset".len()..]
            .trim_start()
            .strip_prefix('=')?;
        let label = rest.trim_start().trim_start_matches(['"', '\'']);
        let end = label
            .find(|c: char| !(c.is_ascii_alphanumeric() || "-_:.".contains(c)))
            .unwrap_or(label.len());
        Encoding::for_label(&label[..end])
    }

    fn reader(&'static self, text: &str, _: Encoding) -> Box<dyn Reader> {
        Box::new(Wrappings::of(text, true))
    }
}

/// The quoted text after `name=`.
fn quoted_behind<'t>(text: &'t str, name: &str) -> Option<&'t str> {
    let rest = text[text.find(name)? + name.len()..].trim_start();
    let rest = rest.strip_prefix('=')?.trim_start();
    let quote = rest.chars().next().filter(|c| matches!(c, '"' | '\''))?;
    let inside = &rest[1..];
    Some(&inside[..inside.find(quote)?])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::format::{Grammar, site_text};

    fn passages(format: &'static dyn Format, text: &str) -> (Vec<String>, bool) {
        let mut all = Vec::new();
        let fine = format.passages(text, Encoding::Utf8, &mut |passage| {
            let raw = &text[passage.span.clone()];
            all.push(format!("{}|{}", site_text(passage.site), raw.trim()));
        });
        (all, fine == Grammar::Kept)
    }

    #[test]
    fn passages_and_their_sites() {
        let cases: [(&'static dyn Format, &str, &[&str]); 9] = [
            (
                &Xml,
                "<?xml version='1.0'?><a><b c=\"D:\\x\">E:\\y</b></a>",
                &["|xml version='1.0'", "a.b.c|D:\\x", "a.b|E:\\y"],
            ),
            (
                &Xml,
                "<a><![CDATA[D:\\x<y]]><!-- /z --></a>",
                &["a|D:\\x<y", "|/z"],
            ),
            (&Xml, "<a b='D:\\x\"y' />", &["a.b|D:\\x\"y"]),
            (
                &Xml,
                "<!DOCTYPE a [<!ENTITY e \"D:/x\">]><a>&e;</a>",
                &["|D:/x", "a|&e;"],
            ),
            (
                &Xml,
                "<add key=\"root\" value=\"D:\\x\"/>",
                &["add.value|D:\\x"],
            ),
            (
                &Html,
                "<!doctype html><p>see D:\\x<br>there<img src=D:/a.png>",
                &["|see D:\\x", "img.src|D:/a.png"],
            ),
            (
                &Html,
                "<script>var a = 'D:\\\\x';</script><style>b{c:url(D:/y)}</style>",
                &["a|D:\\\\x", "|b{c:url(", "|D:/y", "|)}"],
            ),
            (&Html, "<a href='x' disabled>y</a>", &["a.href|x", "|y"]),
            (
                &Xml,
                "<dict><key>root</key><string>D:/x</string></dict>",
                &["dict.string|D:/x"],
            ),
        ];
        for (format, text, expected) in cases {
            let (got, fine) = passages(format, text);
            let got: Vec<&str> = got.iter().map(String::as_str).collect();
            assert_eq!((got, fine), (expected.to_vec(), true), "{text}");
        }
    }

    #[test]
    fn what_breaks_the_grammar() {
        for text in [
            "<a><b></a></b>",
            "<a>",
            "<a b=c/>",
            "<a/><b/>",
            "x<a/>",
            "<a b=\"x/>",
            "<!-- <a/>",
            "",
        ] {
            assert!(!passages(&Xml, text).1, "{text}");
        }
    }

    #[test]
    fn encodings_are_declared() {
        let name = |format: &'static dyn Format, text: &str| {
            format.declared_encoding(text).map(Encoding::name)
        };
        assert_eq!(
            name(&Xml, "<?xml version=\"1.0\" encoding='ISO-8859-2'?><a/>"),
            Some("ISO-8859-2")
        );
        assert_eq!(name(&Xml, "<?xml version=\"1.0\"?><a/>"), None);
        assert_eq!(name(&Html, "<meta charset=utf-8>"), Some("UTF-8"));
        assert_eq!(
            name(&Html, "<meta content=\"text/html; charset=cp1250\">"),
            Some("windows-1250")
        );
    }
}
