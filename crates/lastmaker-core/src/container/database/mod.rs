//! SQLite databases (file format 3), read and written by the library itself, in memory.
//!
//! Yields every text of every table, blobs that may be documents, and the text of the schema,
//! which is sealed. Changes are made in one transaction on a copy: no trigger fires, full-text
//! indexes follow, integrity and foreign keys are checked, and only pages that a change
//! concerns differ. A table that needs what only its own program has (a collation, a function,
//! a tokenizer) is sealed.

mod hashes;
mod schema;
mod update;

use rusqlite::config::DbConfig;
use rusqlite::limits::Limit;
use rusqlite::types::{Value, ValueRef};
use rusqlite::{Connection, MAIN_DB};

use super::bytes::big;
use super::{Container, Each, Fault, LiftFault, NewPart, Part, PartContent, Source, difference};
use crate::about::About;
use crate::layer::ByteEdits;
use crate::scan::{Hint, may_hold_place};
use schema::{Key, Schema, Table};

/// SQLite databases.
pub(super) struct Database;

const ABOUT: About = About {
    name: "sqlite",
    what: "SQLite databases: catalogs, libraries, histories, settings",
    content: "SQLite format 3",
    names: &[],
    read: "text of every table, keys too, JSON and URIs in it; documents in blobs; full-text tables, whose index follows",
    limits: "open or with an unmerged journal it is left; tables with a collation, function or tokenizer of its program's own are sealed, as is the schema; a hash of the path beside it is a doubt; larger than --max-document it is left",
};

const MAGIC: &[u8] = b"SQLite format 3\0";
/// Where the head says whether a journal is written ahead.
const JOURNAL: std::ops::Range<usize> = 18..20;

const IN_SCHEMA: &str =
    "it stands in the database's schema, by which its program knows it; change it there";

impl Container for Database {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        bytes.starts_with(MAGIC) && bytes.len() >= 512
    }

    fn is_written_in_place(&self) -> bool {
        true
    }

    fn keeps_order(&self) -> bool {
        // Rows without numbers come in the order of their keys.
        false
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, .. } = source;
        let database = open(bytes, true)?;
        let schema = Schema::read(&database).map_err(damaged)?;
        cells(&database, &schema, &mut |cell| {
            let hint = Hint::for_value(cell.column());
            each(Part {
                way: &cell.way(),
                holding: match cell.value {
                    ValueRef::Blob(bytes) => PartContent::Document {
                        name: "",
                        bytes,
                        cut: false,
                    },
                    _ => PartContent::Text {
                        bytes: text_of(cell.value),
                        hint,
                        run: None,
                    },
                },
                sealed: cell.table.sealed,
            })
        })?;
        for (way, text) in &schema.texts {
            each(Part {
                way,
                holding: PartContent::Text {
                    bytes: text.as_bytes(),
                    hint: Hint::Code,
                    run: None,
                },
                sealed: Some(IN_SCHEMA),
            })?;
        }
        Ok(())
    }

    fn lift(&self, source: Source<'_>, new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        let Source { bytes, .. } = source;
        let database = open(bytes, false)?;
        let schema = Schema::read(&database).map_err(damaged)?;
        let mut wanted = new.iter().peekable();
        let mut changes = Vec::new();
        let mut ordinal = 0;
        cells(&database, &schema, &mut |cell| {
            if let Some(part) = wanted.next_if(|part| part.part == ordinal) {
                changes.push(update::Change {
                    part: part.part,
                    table: cell.number,
                    key: cell.key.iter().map(|value| owned(*value)).collect(),
                    column: cell.index,
                    old: owned(cell.value),
                    new: part.content.clone(),
                });
            }
            ordinal += 1;
            Ok(())
        })?;
        update::make(&database, &schema, &changes)?;
        let written = database
            .serialize(MAIN_DB)
            .map_err(|error| Fault::Refused(error.to_string()))?;
        let mut written = written.to_vec();
        written[JOURNAL].copy_from_slice(&bytes[JOURNAL]);
        // What is after the pages that the head tells of is none of the database's.
        let pages = big(bytes, 28, 4).unwrap_or_default() as usize * page_size(bytes);
        let sure = bytes.get(24..28) == bytes.get(92..96);
        if sure && pages > 0 && pages < bytes.len() {
            written.extend_from_slice(&bytes[pages..]);
        }
        Ok(difference(bytes, &written, page_size(bytes)))
    }
}

/// Length of a page in bytes.
fn page_size(bytes: &[u8]) -> usize {
    match u16::from_be_bytes([bytes[16], bytes[17]]) {
        1 => 1 << 16,
        size => usize::from(size.max(512)),
    }
}

fn damaged(error: rusqlite::Error) -> Fault {
    Fault::UnreadDatabase(error.to_string())
}

/// Opens a copy of `bytes` in memory. What its schema brings along is not trusted.
fn open(bytes: &[u8], read_only: bool) -> Result<Connection, Fault> {
    let mut copy = bytes.to_vec();
    // In memory nothing is written ahead.
    copy[JOURNAL].fill(1);
    let attempt = || -> rusqlite::Result<Connection> {
        let mut database = Connection::open_in_memory()?;
        let length = copy.len();
        database.deserialize_read_exact(MAIN_DB, &copy[..], length, read_only)?;
        database.set_db_config(DbConfig::SQLITE_DBCONFIG_ENABLE_TRIGGER, false)?;
        database.set_db_config(DbConfig::SQLITE_DBCONFIG_TRUSTED_SCHEMA, false)?;
        database.pragma_update(None, "foreign_keys", false)?;
        // A schema may hold expressions that grow without end, or never end.
        let longest = i32::try_from(length * 2).unwrap_or(i32::MAX).max(1 << 24);
        database.set_limit(Limit::SQLITE_LIMIT_LENGTH, longest)?;
        let mut steps = 2_000 + length / 100;
        database.progress_handler(
            10_000,
            Some(move || {
                steps = steps.saturating_sub(1);
                steps == 0
            }),
        );
        Ok(database)
    };
    attempt().map_err(damaged)
}

/// One value of a row.
struct Cell<'a> {
    table: &'a Table,
    /// Which table of the schema.
    number: usize,
    /// Which row of the table, counted from 1.
    row: usize,
    /// What the row is found by.
    key: &'a [ValueRef<'a>],
    /// Which column of the table.
    index: usize,
    value: ValueRef<'a>,
}

impl Cell<'_> {
    fn column(&self) -> &str {
        &self.table.columns[self.index]
    }

    fn way(&self) -> String {
        let row = match (&self.table.key, self.key) {
            (Key::Row(_), [ValueRef::Integer(row)]) => *row,
            _ => self.row as i64,
        };
        format!("{}, row {row}, {}", self.table.name, self.column())
    }
}

/// A value by itself; what is no letter in a text is lost, and then its row is not found again.
fn owned(value: ValueRef<'_>) -> Value {
    match value {
        ValueRef::Null => Value::Null,
        ValueRef::Integer(number) => Value::Integer(number),
        ValueRef::Real(number) => Value::Real(number),
        ValueRef::Text(bytes) => Value::Text(String::from_utf8_lossy(bytes).into_owned()),
        ValueRef::Blob(bytes) => Value::Blob(bytes.to_vec()),
    }
}

/// A text's bytes, in UTF-8 as far as it is text.
fn text_of(value: ValueRef<'_>) -> &[u8] {
    match value {
        ValueRef::Text(bytes) | ValueRef::Blob(bytes) => bytes,
        _ => &[],
    }
}

/// Whether a value may name a place.
fn matters(value: ValueRef<'_>) -> bool {
    match value {
        ValueRef::Text(bytes) => may_hold_place(&String::from_utf8_lossy(bytes)),
        ValueRef::Blob(bytes) => bytes.len() > 4,
        _ => false,
    }
}

/// Yields every value that may name a place, in the order of tables, rows and columns.
fn cells(
    database: &Connection,
    schema: &Schema,
    each: &mut dyn FnMut(Cell<'_>) -> Result<(), Fault>,
) -> Result<(), Fault> {
    for (number, table) in schema.tables.iter().enumerate() {
        let keys = table.key.columns();
        let mut statement = database.prepare(&table.select()).map_err(damaged)?;
        let mut rows = statement.query([]).map_err(damaged)?;
        let mut count = 0;
        while let Some(row) = rows.next().map_err(damaged)? {
            count += 1;
            let key: Vec<ValueRef<'_>> = (0..keys.len())
                .map(|index| row.get_ref(index))
                .collect::<Result<_, _>>()
                .map_err(damaged)?;
            for index in 0..table.columns.len() {
                let value = row.get_ref(keys.len() + index).map_err(damaged)?;
                if matters(value) {
                    each(Cell {
                        table,
                        number,
                        row: count,
                        key: &key,
                        index,
                        value,
                    })?;
                }
            }
        }
    }
    Ok(())
}
