//! Additions to a sheet that is there: its comments, order and line ends stay.

use thiserror::Error;
use toml_edit::{
    Array, ArrayOfTables, DocumentMut, InlineTable, Item, Table, TomlError, Value, value,
};

use super::Move;
use crate::place::Place;

/// What is added to a sheet.
#[derive(Clone, Copy, Debug, Default)]
pub struct Additions<'a> {
    /// Moves; those from a place that the sheet knows already are left out.
    pub moves: &'a [Move],
    /// Where places are seen, in the words of the sheet.
    pub seen_at: &'a [(Place, String)],
    /// Doubts that are accepted, as `FILE:LINE:COLUMN`.
    pub accepted: &'a [String],
}

/// Why a sheet cannot be added to.
#[derive(Debug, Error)]
pub enum EditFault {
    /// It is no TOML.
    #[error("it cannot be read: {0}")]
    Unread(#[from] TomlError),
    /// An entry of it is something else than a sheet has.
    #[error("{0:?} in it is not what a sheet has")]
    Odd(&'static str),
}

impl Additions<'_> {
    /// The text of a sheet with these additions.
    ///
    /// # Errors
    /// Where it cannot be edited.
    pub fn to(&self, text: &str) -> Result<String, EditFault> {
        let mut document: DocumentMut = text.parse()?;
        self.add_moves(&mut document)?;
        self.add_seen_at(&mut document)?;
        self.add_accepted(&mut document)?;
        let new = document.to_string();
        // The editor knows one line end only.
        Ok(if text.contains("\r\n") {
            new.replace("\r\n", "\n").replace('\n', "\r\n")
        } else {
            new
        })
    }

    fn add_moves(&self, document: &mut DocumentMut) -> Result<(), EditFault> {
        for one in self.moves {
            let mut known = moves_from(document).into_iter();
            if !known.any(|from| Place::parse(&from).is_ok_and(|place| place.same(&one.from))) {
                let fields = [
                    ("from", one.from.to_string().into()),
                    ("to", one.to.to_string().into()),
                ];
                push_move(document, &fields, "")?;
            }
        }
        Ok(())
    }

    fn add_seen_at(&self, document: &mut DocumentMut) -> Result<(), EditFault> {
        if self.seen_at.is_empty() {
            return Ok(());
        }
        let table = table(document, "seen-at")?;
        for (place, folder) in self.seen_at {
            let same = |key: &str| Place::parse(key).is_ok_and(|known| known.same(place));
            if !table.iter().any(|(key, _)| same(key)) {
                table.insert(&place.to_string(), value(folder));
            }
        }
        Ok(())
    }

    fn add_accepted(&self, document: &mut DocumentMut) -> Result<(), EditFault> {
        if self.accepted.is_empty() {
            return Ok(());
        }
        let table = table(document, "accept")?;
        let sites = table.entry("sites").or_insert(value(Array::new()));
        let sites = sites.as_array_mut().ok_or(EditFault::Odd("accept"))?;
        for site in self.accepted {
            if !sites.iter().any(|one| one.as_str() == Some(site)) {
                sites.push(site);
            }
        }
        Ok(())
    }
}

/// From where the moves of a sheet are, as it says it.
fn moves_from(document: &DocumentMut) -> Vec<String> {
    let text = |from: Option<&Item>| Some(from?.as_str()?.to_owned());
    match document.get("move") {
        Some(Item::ArrayOfTables(tables)) => {
            let all = tables.iter().filter_map(|table| text(table.get("from")));
            all.collect()
        }
        Some(Item::Value(Value::Array(array))) => {
            let tables = array.iter().filter_map(Value::as_inline_table);
            let all = tables.filter_map(|table| Some(table.get("from")?.as_str()?.to_owned()));
            all.collect()
        }
        _ => Vec::new(),
    }
}

/// Adds a move behind those that are there, in the form that they have, with a comment before it if there is one.
///
/// # Errors
/// Where moves are something else than a sheet has.
pub(crate) fn push_move(
    document: &mut DocumentMut,
    fields: &[(&str, Value)],
    comment: &str,
) -> Result<(), EditFault> {
    let entry = document
        .entry("move")
        .or_insert(Item::ArrayOfTables(ArrayOfTables::new()));
    if let Some(tables) = entry.as_array_of_tables_mut() {
        let mut table = move_table(fields);
        if !comment.is_empty() {
            table.decor_mut().set_prefix(format!("\n{comment}"));
        }
        tables.push(table);
        return Ok(());
    }
    let array = entry.as_array_mut().ok_or(EditFault::Odd("move"))?;
    array.push(fields.iter().cloned().collect::<InlineTable>());
    Ok(())
}

/// A move as a table of its own.
pub(crate) fn move_table(fields: &[(&str, Value)]) -> Table {
    let items = fields.iter().cloned();
    items
        .map(|(key, field)| (key, Item::Value(field)))
        .collect()
}

/// The table of this name, new if there is none.
fn table<'d>(
    document: &'d mut DocumentMut,
    name: &'static str,
) -> Result<&'d mut dyn toml_edit::TableLike, EditFault> {
    let entry = document.entry(name).or_insert(Item::Table(Table::new()));
    entry.as_table_like_mut().ok_or(EditFault::Odd(name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn comments_order_and_line_ends_stay() {
        let one = |from: &str, to: &str| {
            Move::new(Place::parse(from).unwrap(), Place::parse(to).unwrap())
        };
        let moves = [one(r"d:\herbarium", r"H:\x"), one(r"D:\Maps", r"M:\Maps")];
        let seen_at = [(Place::parse(r"M:\").unwrap(), "disks/m".to_owned())];
        let accepted = ["a.ini:3:5".to_owned()];
        let additions = Additions {
            moves: &moves,
            seen_at: &seen_at,
            accepted: &accepted,
        };
        let text = "# ours\r\n[[move]] # the first\r\nfrom = 'D:\\Herbarium'\r\nto = 'H:\\Herbarium'\r\n\r\n\
                    [accept]\r\nreasons = ['pattern'] # looked at\r\n";
        let new = additions.to(text).unwrap();
        assert!(
            new.starts_with("# ours\r\n[[move]] # the first\r\n"),
            "{new}"
        );
        assert!(new.contains("reasons = ['pattern'] # looked at\r\nsites = [\"a.ini:3:5\"]\r\n"));
        assert!(!new.replace("\r\n", "").contains('\n'), "{new:?}");
        let sheet = super::super::read(new.as_bytes(), std::path::Path::new("moves.toml")).unwrap();
        let froms: Vec<String> = sheet.moves.iter().map(|one| one.from.to_string()).collect();
        assert_eq!(froms, [r"D:\Herbarium", r"D:\Maps"]);
        assert_eq!(sheet.seen_at.len(), 1);
        // Added once, whether as tables or in one line.
        assert_eq!(additions.to(&new).unwrap(), new);
        let inline = additions
            .to("move = [{from = 'D:\\Maps', to = 'X:\\'}]\n")
            .unwrap();
        assert_eq!(inline.matches("from").count(), 2, "{inline}");
        assert!(additions.to("move = 1\n").is_err() && additions.to("[").is_err());
    }
}
