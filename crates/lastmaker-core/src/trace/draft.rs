//! The sheet that a trace drafts: a new one, or one that is there, whose comments and order stay.

use toml_edit::{Array, DocumentMut, Item, Table, Value, value};

use crate::place::Place;
use crate::report::{TraceReport, TracedMove};
use crate::sheet::{Additions, EditFault, move_table, push_move};

/// What a draft is made of.
#[derive(Debug)]
pub struct Draft<'a> {
    /// The moves that were found.
    pub report: &'a TraceReport,
    /// The sheet as it is; none if there is none yet.
    pub existing: Option<&'a str>,
    /// What a new sheet says is to be looked at.
    pub paths: &'a [String],
    /// Where places are seen from the folder of the sheet.
    pub seen_at: &'a [(Place, String)],
}

/// A sheet that was drafted.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Drafted {
    /// The sheet.
    pub text: String,
    /// How many moves it has now that it did not have.
    pub moves: usize,
    /// How many stand in it as comments, because they are not certain.
    pub in_comments: usize,
}

impl Draft<'_> {
    /// Makes the sheet.
    ///
    /// # Errors
    /// Where the sheet that is there cannot be edited.
    pub fn make(&self) -> Result<Drafted, EditFault> {
        let mut document: DocumentMut = self.existing.unwrap_or("").parse()?;
        let (certain, open): (Vec<&TracedMove>, Vec<&TracedMove>) =
            self.report.moves.iter().partition(|one| one.certain);
        for one in &certain {
            push_move(&mut document, &fields(one), &evidence(one))?;
        }
        if self.existing.is_none() {
            self.add_scan(&mut document);
        }
        let additions = Additions {
            seen_at: self.seen_at,
            ..Additions::default()
        };
        let mut text = additions.to(&document.to_string())?;
        if self.existing.is_none() {
            let head = "# What moved, as far as names tell. Look it over, then see what would change:\n\
                        #   lastmaker preview\n";
            text = format!("{head}{text}");
        }
        for one in &open {
            text.push_str(&commented(one));
        }
        // The editor knows one line end only.
        if self.existing.is_some_and(|text| text.contains("\r\n")) {
            text = text.replace("\r\n", "\n").replace('\n', "\r\n");
        }
        Ok(Drafted {
            text,
            moves: certain.len(),
            in_comments: open.len(),
        })
    }

    fn add_scan(&self, document: &mut DocumentMut) {
        if self.paths.is_empty() {
            return;
        }
        let mut scan = Table::new();
        scan.insert("paths", value(list(self.paths)));
        document.insert("scan", Item::Table(scan));
    }
}

/// What a sheet says of a move.
fn fields(one: &TracedMove) -> Vec<(&'static str, Value)> {
    let mut all = vec![
        ("from", one.from.as_str().into()),
        ("to", one.to.as_str().into()),
    ];
    for (key, places) in [("also", &one.also), ("except", &one.except)] {
        if !places.is_empty() {
            all.push((key, list(places).into()));
        }
    }
    all
}

fn list(places: &[String]) -> Array {
    places.iter().collect()
}

/// What speaks for a move, and against it, as a comment.
fn evidence(one: &TracedMove) -> String {
    let number = |number: usize, noun: &str| match number {
        1 => format!("1 {noun}"),
        number => format!("{number} {noun}s"),
    };
    let mut text = format!(
        "# explains {} to {}",
        number(one.explains, "reference"),
        number(one.places, "place")
    );
    if one.contradicts > 0 {
        text.push_str(&format!("; {} more are not there", one.contradicts));
    }
    text.push('\n');
    text
}

/// A move that is not certain: a person takes the signs off, or not.
fn commented(one: &TracedMove) -> String {
    let table = move_table(&fields(one));
    let why = one.why.as_deref().unwrap_or_default();
    let mut text = format!("\n# Not certain: {why}.\n{}# [[move]]\n", evidence(one));
    for line in table.to_string().lines() {
        text.push_str(&format!("# {line}\n"));
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(from: &str, to: &str, certain: bool) -> TracedMove {
        TracedMove {
            from: from.to_owned(),
            to: to.to_owned(),
            explains: 5,
            places: 4,
            contradicts: 0,
            certain,
            also: Vec::new(),
            except: Vec::new(),
            rivals: Vec::new(),
            why: (!certain).then(|| "few names speak for it".to_owned()),
        }
    }

    #[test]
    fn a_sheet_that_is_there_keeps_its_comments_and_order() {
        let report = TraceReport {
            moves: vec![
                found(r"D:\Maps", r"M:\Maps", true),
                found(r"D:\x", r"H:\x", false),
            ],
            ..TraceReport::default()
        };
        let existing = "# ours\n[[move]]\nfrom = 'D:\\Herbarium' # all of it\nto = 'H:\\Herbarium'\n\n\
                        [seen-at] # disks\n'H:\\' = 'disks/h'\n";
        let seen_at = [
            (Place::parse(r"h:\").unwrap(), "other".to_owned()),
            (Place::parse(r"M:\").unwrap(), "disks/m".to_owned()),
        ];
        let draft = Draft {
            report: &report,
            existing: Some(existing),
            paths: &["ignored".to_owned()],
            seen_at: &seen_at,
        };
        let drafted = draft.make().unwrap();
        let expected = "# ours\n[[move]]\nfrom = 'D:\\Herbarium' # all of it\nto = 'H:\\Herbarium'\n\n\
                        # explains 5 references to 4 places\n[[move]]\nfrom = 'D:\\Maps'\nto = 'M:\\Maps'\n\n\
                        [seen-at] # disks\n'H:\\' = 'disks/h'\n'M:\\' = \"disks/m\"\n\n\
                        # Not certain: few names speak for it.\n# explains 5 references to 4 places\n\
                        # [[move]]\n# from = 'D:\\x'\n# to = 'H:\\x'\n";
        assert_eq!(drafted.text, expected);
        assert_eq!((drafted.moves, drafted.in_comments), (1, 1));
        let again = crate::sheet::read(drafted.text.as_bytes(), "moves.toml".as_ref()).unwrap();
        assert_eq!(again.moves.len(), 2);
        let broken = Draft {
            existing: Some("move = 3"),
            ..draft
        };
        assert!(matches!(broken.make(), Err(EditFault::Odd("move"))));
    }
}
