//! What a text says of its own encoding, whatever its format.

use super::Encoding;

/// The encoding that `text` declares: a `coding:` in one of its first two lines, as editors and
/// interpreters read it, or a style sheet's `@charset`.
pub fn declared(text: &str) -> Option<Encoding> {
    const LONGEST: usize = 400;
    if let Some(rest) = text.strip_prefix("@charset \"") {
        return Encoding::for_label(rest.split('"').next()?);
    }
    let lines = text.lines().take(2).filter(|line| line.len() < LONGEST);
    lines.into_iter().find_map(|line| {
        let at = line.find("coding")? + "coding".len();
        let rest = line[at..].strip_prefix([':', '='])?.trim_start();
        let ends = |c: char| !(c.is_ascii_alphanumeric() || "-_.".contains(c));
        let name = rest.split(ends).next()?;
        let plain = ["-unix", "-dos", "-mac"]
            .iter()
            .find_map(|end| name.strip_suffix(end));
        let name = plain.unwrap_or(name);
        Encoding::for_label(name).or_else(|| Encoding::for_label(&name.replace(['-', '_'], "")))
    })
}

/// The code page that a batch file sets for what it shows and reads: `chcp 850`.
pub fn code_page_set(text: &str) -> Option<Encoding> {
    const COMMAND: &[u8] = b"chcp ";
    let bytes = text.as_bytes();
    let newlines = memchr::memchr_iter(b'\n', bytes);
    let mut starts = std::iter::once(0).chain(newlines.map(|newline| newline + 1));
    starts.find_map(|start| {
        let blanks = bytes[start..].iter();
        let blanks = blanks.take_while(|byte| matches!(byte, b' ' | b'\t' | b'@'));
        let at = start + blanks.count();
        let end = at + COMMAND.len();
        let command = bytes.get(at..end)?;
        if !command.eq_ignore_ascii_case(COMMAND) {
            return None;
        }
        let rest = text[end..].lines().next()?.trim_start();
        let number: String = rest.chars().take_while(char::is_ascii_digit).collect();
        match number.as_str() {
            "65001" => Some(Encoding::Utf8),
            "932" => Encoding::for_label("shift_jis"),
            "936" => Encoding::for_label("gbk"),
            "949" => Encoding::for_label("euc-kr"),
            "950" => Encoding::for_label("big5"),
            number => Encoding::for_label(&format!("windows-{number}"))
                .or_else(|| Encoding::for_label(&format!("cp{number}"))),
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_texts_say_of_themselves() {
        let name = |found: Option<Encoding>| found.map(Encoding::name);
        let cases = [
            ("# -*- coding: koi8-r -*-\n", Some("KOI8-R")),
            (
                "#!/usr/bin/python\n# coding=latin-1\n",
                Some("windows-1252"),
            ),
            (";; -*- coding: utf-8-unix; -*-\n", Some("UTF-8")),
            ("/* vim: set fileencoding=cp850 : */\n", Some("cp850")),
            ("@charset \"iso-8859-2\";\n", Some("ISO-8859-2")),
            ("a\nb\n# coding: koi8-r\n", None),
            ("# encoding things\n", None),
        ];
        for (text, expected) in cases {
            assert_eq!(name(declared(text)), expected, "{text}");
        }
        let pages = [
            ("@echo off\r\nCHCP 850 >nul\r\n", Some("cp850")),
            ("chcp 1251\r\n", Some("windows-1251")),
            ("chcp 866", Some("IBM866")),
            ("rem chcp 850\r\n", None),
            ("chcp \r\n850\r\n", None),
            ("", None),
        ];
        for (text, expected) in pages {
            assert_eq!(name(code_page_set(text)), expected, "{text}");
        }
    }
}
