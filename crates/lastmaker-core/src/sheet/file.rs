//! The sheet as typed: TOML, with every fault given at once and each with its line.

use std::ops::Range;
use std::path::Path;

use thiserror::Error;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::{AcceptanceFault, Move, PortableFiles, Sheet, seen_folder};
use crate::layer::VariableForm;
use crate::place::Place;
use crate::text::Text;

/// What is wrong with a sheet, and in which line.
#[derive(Debug, Error, PartialEq, Eq)]
#[error("line {line}: {what}")]
pub struct SheetFault {
    /// The line, counted from 1.
    pub line: usize,
    /// What is wrong, and what to do.
    pub what: String,
}

/// Reads a sheet from the bytes of `file`; relative paths in it are relative to its folder.
///
/// # Errors
/// Gives every fault, in the order of the lines.
pub fn read(bytes: &[u8], file: &Path) -> Result<Sheet, Vec<SheetFault>> {
    let Some(text) = Text::open(bytes, None) else {
        return Err(vec![SheetFault {
            line: 1,
            what: "the file is not text; a sheet is TOML in UTF-8 or UTF-16".to_owned(),
        }]);
    };
    let mut reader = Reader {
        text: &text.content,
        base: file.parent().unwrap_or(Path::new("")),
        faults: Vec::new(),
    };
    let (table, errors) = DeTable::parse_recoverable(&text.content);
    for error in errors {
        let span = error.span().unwrap_or(0..0);
        reader.fault(&span, syntax_fault(error.message()));
    }
    let mut sheet = reader.sheet(table.get_ref());
    sheet.file = Some(file.to_owned());
    let mut faults = reader.faults;
    faults.sort_by_key(|fault| fault.line);
    if faults.is_empty() {
        sheet.add_usual_variables();
        Ok(sheet)
    } else {
        Err(faults)
    }
}

/// A double-quoted path trips over its escapes first; say what helps.
fn syntax_fault(message: &str) -> String {
    if message.contains("escape") {
        format!("{message}; put places in single quotes: 'D:\\Herbarium'")
    } else {
        message.to_owned()
    }
}

struct Reader<'a> {
    text: &'a str,
    base: &'a Path,
    faults: Vec<SheetFault>,
}

type Value<'a> = Spanned<DeValue<'a>>;

impl Reader<'_> {
    fn fault(&mut self, span: &Range<usize>, what: impl Into<String>) {
        let before = &self.text.as_bytes()[..span.start.min(self.text.len())];
        self.faults.push(SheetFault {
            line: 1 + memchr::memchr_iter(b'\n', before).count(),
            what: what.into(),
        });
    }

    fn sheet(&mut self, table: &DeTable<'_>) -> Sheet {
        let mut sheet = Sheet::default();
        let mut lines = Vec::new();
        for (key, value) in table {
            let span = key.span();
            match key.get_ref().as_ref() {
                "move" => {
                    for entry in self.tables(value, &span, "[[move]]") {
                        let at = sheet.moves.len();
                        if let Some(one) = self.one_move(&entry) {
                            sheet.moves.push(one);
                            lines.push((at, entry.span()));
                        }
                    }
                }
                "seen-at" => {
                    for (place, folder) in self.entries(value, &span, "seen-at") {
                        let place = self.place_text(&place.0, &place.1);
                        let folder = self.string(folder, "the folder where a place is seen");
                        if let (Some(place), Some(folder)) = (place, folder) {
                            sheet.seen_at.push((place, seen_folder(self.base, &folder)));
                        }
                    }
                }
                "variables" => {
                    for (name, value) in self.entries(value, &span, "variables") {
                        if let Some(place) = self.place(value, "a variable's value") {
                            sheet.variables.push((name.0, place));
                        }
                    }
                }
                "scan" => self.scan(value, &span, &mut sheet),
                "accept" => self.accept(value, &span, &mut sheet),
                "portable" => {
                    for entry in self.tables(value, &span, "[[portable]]") {
                        self.portable(&entry, &mut sheet);
                    }
                }
                "native" => match value.get_ref().as_bool() {
                    Some(native) => sheet.native = native,
                    None => self.fault(&value.span(), "native is true or false"),
                },
                other => self.fault(
                    &span,
                    format!("{other:?} is not known; a sheet has move, seen-at, variables, scan, accept, portable and native"),
                ),
            }
        }
        for (index, what) in sheet.faults() {
            let span = lines
                .iter()
                .find(|(at, _)| *at == index)
                .map_or(0..0, |(_, span)| span.clone());
            self.fault(&span, what);
        }
        sheet
    }

    fn tables<'v>(
        &mut self,
        value: &'v Value<'v>,
        span: &Range<usize>,
        what: &str,
    ) -> Vec<Spanned<&'v DeTable<'v>>> {
        let mut found = Vec::new();
        match value.get_ref() {
            DeValue::Array(items) => {
                for item in items.iter() {
                    match item.get_ref().as_table() {
                        Some(table) => found.push(Spanned::new(item.span(), table)),
                        None => self.fault(&item.span(), format!("{what} is a table")),
                    }
                }
            }
            _ => self.fault(
                span,
                format!("write {what} with two brackets; there may be several"),
            ),
        }
        found
    }

    fn entries<'v>(
        &mut self,
        value: &'v Value<'v>,
        span: &Range<usize>,
        what: &str,
    ) -> Vec<((String, Range<usize>), &'v Value<'v>)> {
        match value.get_ref().as_table() {
            Some(table) => table
                .iter()
                .map(|(key, value)| ((key.get_ref().to_string(), key.span()), value))
                .collect(),
            None => {
                self.fault(span, format!("{what} is a table: [{what}]"));
                Vec::new()
            }
        }
    }

    fn one_move(&mut self, entry: &Spanned<&DeTable<'_>>) -> Option<Move> {
        let before = self.faults.len();
        let (mut from, mut to) = (None, None);
        let (mut except, mut also, mut ignore_case) = (Vec::new(), Vec::new(), false);
        for (key, value) in entry.get_ref().iter() {
            match key.get_ref().as_ref() {
                "from" => from = self.place(value, "from"),
                "to" => to = self.place(value, "to"),
                "except" => except = self.places(value, "except"),
                "also" => also = self.places(value, "also"),
                "case" => match value.get_ref().as_str() {
                    Some("ignore") => ignore_case = true,
                    Some("respect") => {}
                    _ => self.fault(&value.span(), "case is \"ignore\" or \"respect\""),
                },
                other => self.fault(
                    &key.span(),
                    format!("{other:?} is not known; a move has from, to, except, also and case"),
                ),
            }
        }
        if self.faults.len() == before {
            for (side, missing) in [("from", from.is_none()), ("to", to.is_none())] {
                if missing {
                    self.fault(&entry.span(), format!("this move has no {side}"));
                }
            }
        }
        Some(Move {
            from: from?,
            to: to?,
            except,
            also,
            ignore_case,
        })
    }

    fn scan(&mut self, value: &Value<'_>, span: &Range<usize>, sheet: &mut Sheet) {
        for (key, value) in self.entries(value, span, "scan") {
            match key.0.as_str() {
                "paths" => {
                    let paths = self.strings(value, "paths");
                    sheet.paths = paths.iter().map(|path| self.base.join(path)).collect();
                }
                "skip" => sheet.skip = self.strings(value, "skip"),
                other => self.fault(
                    &key.1,
                    format!("{other:?} is not known; scan has paths and skip"),
                ),
            }
        }
    }

    fn portable(&mut self, entry: &Spanned<&DeTable<'_>>, sheet: &mut Sheet) {
        let mut portable = PortableFiles {
            files: Vec::new(),
            variables: None,
        };
        for (key, value) in entry.get_ref().iter() {
            match key.get_ref().as_ref() {
                "files" => portable.files = self.strings(value, "files"),
                "variables" => {
                    let sample = self.string(value, "how a variable called NAME is written");
                    portable.variables = sample.as_deref().and_then(VariableForm::of_sample);
                    if sample.is_some() && portable.variables.is_none() {
                        self.fault(
                            &value.span(),
                            "variables says how the program writes a variable called NAME: '%NAME%', '$NAME', \
                             '${NAME}', '$(NAME)' or '$env:NAME'",
                        );
                    }
                }
                other => self.fault(
                    &key.span(),
                    format!("{other:?} is not known; portable has files and variables"),
                ),
            }
        }
        if portable.files.is_empty() {
            self.fault(&entry.span(), "[[portable]] names no files: files = ['…']");
        } else {
            sheet.portable.push(portable);
        }
    }

    fn accept(&mut self, value: &Value<'_>, span: &Range<usize>, sheet: &mut Sheet) {
        for (key, value) in self.entries(value, span, "accept") {
            let accept = &mut sheet.accept;
            let base = self.base;
            let mut add: Box<dyn FnMut(&str) -> Result<(), AcceptanceFault>> = match &*key.0 {
                "reasons" => Box::new(|text| accept.add_reason(text)),
                "sites" => Box::new(|text| accept.add_site(text, base)),
                other => {
                    let what = format!("{other:?} is not known; accept has reasons and sites");
                    self.fault(&key.1, what);
                    continue;
                }
            };
            for text in self.strings(value, &key.0) {
                if let Err(fault) = add(&text) {
                    self.fault(&value.span(), fault.to_string());
                }
            }
        }
    }

    fn string(&mut self, value: &Value<'_>, what: &str) -> Option<String> {
        match value.get_ref().as_str() {
            Some(text) => Some(text.to_owned()),
            None => {
                self.fault(&value.span(), format!("{what} is a text in quotes"));
                None
            }
        }
    }

    fn strings(&mut self, value: &Value<'_>, what: &str) -> Vec<String> {
        match value.get_ref().as_array() {
            Some(items) => items
                .iter()
                .filter_map(|item| self.string(item, what))
                .collect(),
            None => {
                self.fault(&value.span(), format!("{what} is a list: {what} = ['…']"));
                Vec::new()
            }
        }
    }

    fn place(&mut self, value: &Value<'_>, what: &str) -> Option<Place> {
        let text = self.string(value, what)?;
        self.place_text(&text, &value.span())
    }

    fn places(&mut self, value: &Value<'_>, what: &str) -> Vec<Place> {
        match value.get_ref().as_array() {
            Some(items) => items
                .iter()
                .filter_map(|item| self.place(item, what))
                .collect(),
            None => {
                self.fault(&value.span(), format!("{what} is a list: {what} = ['…']"));
                Vec::new()
            }
        }
    }

    fn place_text(&mut self, text: &str, span: &Range<usize>) -> Option<Place> {
        match Place::parse(text) {
            Ok(place) => Some(place),
            Err(fault) => {
                self.fault(span, fault.to_string());
                None
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::text::Encoding;

    const WHOLE: &str = "# what moved\r\n\
        [[move]]\r\nfrom = 'D:\\Herbarium'\r\nto = 'H:\\Collections\\Herbarium'\r\n\
        except = ['D:\\Herbarium\\Loans']\r\nalso = ['S:\\']\r\n\
        [seen-at]\r\n'H:\\' = 'disks/h'\r\n\
        [variables]\r\nUSERPROFILE = 'C:\\Users\\ines'\r\n\
        [scan]\r\npaths = ['profile', 'exports']\r\nskip = ['*.tmp']\r\n";

    #[test]
    fn a_whole_sheet_in_any_encoding() {
        for encoding in [Encoding::Utf8, Encoding::Utf16Le, Encoding::Utf16Be] {
            for mark in ["", "\u{feff}"] {
                let bytes = encoding.encode(&format!("{mark}{WHOLE}")).unwrap();
                let sheet = read(&bytes, Path::new("desk/moves.toml")).unwrap();
                assert_eq!(sheet.moves.len(), 1);
                assert_eq!(sheet.moves[0].also[0].to_string(), r"S:\");
                assert_eq!(sheet.seen_at[0].1, Path::new("desk").join("disks/h"));
                assert_eq!(sheet.paths[1], Path::new("desk").join("exports"));
                assert_eq!(sheet.skip, ["*.tmp"]);
                assert_eq!(sheet.variables[0].1.to_string(), r"C:\Users\ines");
            }
        }
    }

    #[test]
    fn every_fault_at_once_each_with_its_line() {
        let text = "[[move]]\nfrom = \"D:\\new\"\nto = 'H:\\x'\n\
            [[move]]\nfrom = 'Herbarium'\nfro = 1\n\
            [[move]]\nfrom = 'E:\\a'\n\
            [[move]]\nfrom = 'E:\\b'\nto = 'E:\\b'\nexcept = ['F:\\']\n\
            [scam]\n[scan]\npaths = 'x'\n";
        let faults = read(text.as_bytes(), Path::new("moves.toml")).unwrap_err();
        let lines: Vec<usize> = faults.iter().map(|fault| fault.line).collect();
        assert_eq!(lines, [2, 5, 6, 7, 9, 9, 13, 15], "{faults:#?}");
        assert!(faults[0].what.contains("single quotes"));
        assert!(faults[3].what.contains("no to"));
    }

    #[test]
    fn escapes_in_double_quotes_are_explained() {
        let faults = read(
            b"[[move]]\nfrom = \"D:\\Herbarium\"\nto = 'H:\\x'\n",
            Path::new("m"),
        )
        .unwrap_err();
        assert_eq!(faults[0].line, 2);
        assert!(faults[0].what.contains("single quotes"), "{faults:?}");
    }
}
