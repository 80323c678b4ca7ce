//! Changes of a database in one transaction: what must differ stays different, and what depends
//! on a changed row follows or keeps it as it is.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use rusqlite::types::{ToSqlOutput, Value, ValueRef};
use rusqlite::{Connection, Error, ErrorCode, ToSql};

use super::super::{Fault, LiftFault, Refused, RefusedPart};
use super::hashes::is_hash_of;
use super::schema::{Schema, Table, quoted};

/// A new value for one cell.
#[derive(Debug)]
pub(super) struct Change {
    /// Which part it is.
    pub(super) part: usize,
    /// Which table of the schema.
    pub(super) table: usize,
    /// What the row is found by.
    pub(super) key: Vec<Value>,
    /// Which column of the table.
    pub(super) column: usize,
    pub(super) old: Value,
    pub(super) new: Vec<u8>,
}

/// Bytes as a text or a blob, whatever was there.
struct Stored<'a> {
    bytes: &'a [u8],
    blob: bool,
}

impl ToSql for Stored<'_> {
    fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
        Ok(ToSqlOutput::Borrowed(if self.blob {
            ValueRef::Blob(self.bytes)
        } else {
            ValueRef::Text(self.bytes)
        }))
    }
}

impl Change {
    fn stored<'a>(&'a self, bytes: &'a [u8]) -> Stored<'a> {
        Stored {
            bytes,
            blob: matches!(self.old, Value::Blob(_)),
        }
    }
}

/// The changes of one row.
struct Row<'a> {
    table: &'a Table,
    changes: &'a [Change],
}

/// Which parts are refused, and why.
type Refusals = BTreeMap<usize, (Refused, String)>;

/// Makes the changes.
///
/// # Errors
/// Where some of them, or all, cannot be made; the database is then of no use any more.
pub(super) fn make(
    database: &Connection,
    schema: &Schema,
    changes: &[Change],
) -> Result<(), LiftFault> {
    let before = Soundness::of(database);
    before.must_be_whole()?;
    database.execute_batch("BEGIN").map_err(refuses)?;
    let mut refused = Refusals::new();
    let same_row = |a: &Change, b: &Change| a.table == b.table && a.key == b.key;
    let mut waiting = Vec::new();
    for of_row in changes.chunk_by(same_row) {
        let row = Row {
            table: &schema.tables[of_row[0].table],
            changes: of_row,
        };
        row.refuse_unsafe(database, &mut refused);
        waiting.push(row);
    }
    if refused.is_empty() {
        update_all(database, waiting, changes, &mut refused);
    }
    if !refused.is_empty() {
        return Err(refusal(refused));
    }
    rebuild_indexes(database, schema, changes)?;
    database.execute_batch("COMMIT").map_err(refuses)?;
    before.must_hold(database, schema, changes)
}

fn refuses(error: Error) -> LiftFault {
    Fault::Refused(error.to_string()).into()
}

/// Builds the full-text indexes of the tables that changed anew.
fn rebuild_indexes(
    database: &Connection,
    schema: &Schema,
    changes: &[Change],
) -> Result<(), LiftFault> {
    let concerned: BTreeSet<String> = changes
        .iter()
        .map(|change| schema.tables[change.table].name.to_ascii_lowercase())
        .collect();
    let indexes = schema.indexes.iter();
    for index in indexes.filter(|index| concerned.contains(&index.of)) {
        let name = quoted(&index.name);
        let rebuild = format!("INSERT INTO {name}({name}) VALUES ('rebuild')");
        database
            .execute(&rebuild, [])
            .map_err(|error| Fault::UnbuiltIndex {
                index: index.name.clone(),
                why: error.to_string(),
            })?;
    }
    Ok(())
}

/// What the database itself finds wrong with its structure and its foreign keys.
struct Soundness {
    findings: Vec<String>,
    violations: BTreeSet<(String, String)>,
}

impl Soundness {
    fn of(database: &Connection) -> Self {
        Self {
            findings: findings(database),
            violations: violations(database).into_iter().collect(),
        }
    }

    /// Refuses a database that is damaged already.
    fn must_be_whole(&self) -> Result<(), LiftFault> {
        let damaged = |line: &String| line != "ok" && !is_about_program(line);
        if !self.findings.iter().any(damaged) {
            return Ok(());
        }
        Err(Fault::DamagedDatabase(self.findings.first().cloned().unwrap_or_default()).into())
    }

    /// Refuses changes after which the database finds more wrong than before.
    fn must_hold(
        &self,
        database: &Connection,
        schema: &Schema,
        changes: &[Change],
    ) -> Result<(), LiftFault> {
        if findings(database) != self.findings {
            return Err(Fault::Unsound.into());
        }
        let broken: BTreeSet<String> = violations(database)
            .into_iter()
            .filter(|violation| !self.violations.contains(violation))
            .flat_map(|(child, parent)| [child, parent])
            .collect();
        if broken.is_empty() {
            return Ok(());
        }
        let why = "a foreign key between its table and another would no longer fit";
        let parts = changes
            .iter()
            .filter(|change| broken.contains(&schema.tables[change.table].name))
            .map(|change| RefusedPart::new(change.part, Refused::Doubtful, why));
        Err(LiftFault::Parts(parts.collect()))
    }
}

fn refusal(refused: Refusals) -> LiftFault {
    let parts = refused.into_iter();
    LiftFault::Parts(
        parts
            .map(|(part, (how, why))| RefusedPart::new(part, how, why))
            .collect(),
    )
}

/// What the integrity check says.
fn findings(database: &Connection) -> Vec<String> {
    let read = || -> rusqlite::Result<Vec<String>> {
        let mut statement = database.prepare("PRAGMA integrity_check(20)")?;
        let rows = statement.query_map([], |row| row.get(0))?;
        rows.collect()
    };
    read().unwrap_or_else(|error| vec![error.to_string()])
}

/// Pairs of tables between which a foreign key does not fit, once for each row.
fn violations(database: &Connection) -> Vec<(String, String)> {
    let read = || -> rusqlite::Result<Vec<(String, String)>> {
        let mut statement = database.prepare("PRAGMA foreign_key_check")?;
        let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get(2)?)))?;
        rows.collect()
    };
    read().unwrap_or_default()
}

/// Whether an error tells of something that only the database's own program has.
fn is_about_program(error: &str) -> bool {
    [
        "no such collation",
        "no such function",
        "unknown function",
        "no such tokenizer",
        "unknown tokenizer",
        "no such module",
    ]
    .iter()
    .any(|sign| error.contains(sign))
}

/// Makes all changes, whatever order they need so that values that must differ do so at each
/// step.
fn update_all<'a>(
    database: &Connection,
    mut waiting: Vec<Row<'a>>,
    changes: &'a [Change],
    refused: &mut Refusals,
) {
    // First in any order that works: a value may be free once another row has moved.
    loop {
        let before = waiting.len();
        waiting.retain(|row| match row.update(database, None) {
            Ok(()) => false,
            Err(error) => {
                let collides = is_collision(&error);
                if !collides {
                    row.refuse(&error, refused);
                }
                collides
            }
        });
        if waiting.len() == before || waiting.is_empty() {
            break;
        }
    }
    // What is left forms rings, or meets a row that stays. Rings are opened by a value that
    // nothing else has.
    let mut parked = Vec::new();
    for (number, row) in waiting.into_iter().enumerate() {
        match row.update(database, Some(number)) {
            Ok(()) => parked.push((number, row)),
            Err(error) => row.refuse(&error, refused),
        }
    }
    let mut taken: HashMap<(usize, usize, Vec<u8>), Vec<usize>> = HashMap::new();
    if !parked.is_empty() {
        for change in changes {
            let new = change.new.to_ascii_lowercase();
            let same = taken.entry((change.table, change.column, new)).or_default();
            same.push(change.part);
        }
    }
    for (number, row) in parked {
        let Err(error) = row.unpark(database, number) else {
            continue;
        };
        row.refuse(&error, refused);
        // Where two would become the same, both stay.
        for change in row.changes {
            let new = change.new.to_ascii_lowercase();
            for part in taken
                .get(&(change.table, change.column, new))
                .into_iter()
                .flatten()
            {
                refused.entry(*part).or_insert_with(collision);
            }
        }
    }
}

fn collision() -> (Refused, String) {
    (
        Refused::Collision,
        "another row has the new value already, and the column allows it once".to_owned(),
    )
}

fn is_collision(error: &Error) -> bool {
    const UNIQUE: [i32; 3] = [
        rusqlite::ffi::SQLITE_CONSTRAINT_UNIQUE,
        rusqlite::ffi::SQLITE_CONSTRAINT_PRIMARYKEY,
        rusqlite::ffi::SQLITE_CONSTRAINT_ROWID,
    ];
    error
        .sqlite_error()
        .is_some_and(|error| UNIQUE.contains(&error.extended_code))
}

impl Row<'_> {
    /// Refuses changes on which something else in the row depends, and those whose text is not
    /// all known.
    fn refuse_unsafe(&self, database: &Connection, refused: &mut Refusals) {
        for change in self.changes {
            let Value::Text(old) = &change.old else {
                continue;
            };
            if old.contains('\u{FFFD}') {
                let why = "some of its letters are no letters, and would be lost".to_owned();
                refused.insert(change.part, (Refused::Doubtful, why));
            } else if let Some((column, hash)) = self.hash_beside(database, old) {
                let why = format!(
                    "the column {column} beside it is its {hash}, by which the program may find it"
                );
                refused.insert(change.part, (Refused::Doubtful, why));
            }
        }
    }

    /// The column of the row that holds a hash of `text`, and which hash.
    fn hash_beside(&self, database: &Connection, text: &str) -> Option<(String, &'static str)> {
        let columns: Vec<String> = self.table.columns.iter().map(|name| quoted(name)).collect();
        let sql = format!(
            "SELECT {} FROM {} WHERE {}",
            columns.join(", "),
            quoted(&self.table.name),
            self.condition(0)
        );
        let mut statement = database.prepare_cached(&sql).ok()?;
        let mut rows = statement
            .query(rusqlite::params_from_iter(&self.changes[0].key))
            .ok()?;
        let row = rows.next().ok()??;
        (0..self.table.columns.len()).find_map(|index| {
            let hash = is_hash_of(row.get_ref(index).ok()?, text)?;
            Some((self.table.columns[index].clone(), hash))
        })
    }

    /// What finds the row, with parameters after the first `before`.
    fn condition(&self, before: usize) -> String {
        let keys = self.table.key.columns().into_iter().enumerate();
        let tests: Vec<String> = keys
            .map(|(index, column)| format!("{} = ?{}", quoted(column), before + index + 1))
            .collect();
        tests.join(" AND ")
    }

    /// Gives the row its new values; or, to make room for others, values that nothing else has.
    fn update(&self, database: &Connection, park: Option<usize>) -> Result<(), Error> {
        self.set(database, park, &self.changes[0].key)
    }

    /// Gives a parked row its new values.
    fn unpark(&self, database: &Connection, number: usize) -> Result<(), Error> {
        let columns = self.table.key.columns();
        let key: Vec<Value> = columns
            .iter()
            .zip(&self.changes[0].key)
            .map(|(column, value)| {
                let change = self
                    .changes
                    .iter()
                    .find(|change| self.table.columns[change.column].eq_ignore_ascii_case(column));
                change.map_or_else(
                    || value.clone(),
                    |change| match change.old {
                        Value::Blob(_) => Value::Blob(parked(&change.new, number)),
                        _ => Value::Text(
                            String::from_utf8_lossy(&parked(&change.new, number)).into_owned(),
                        ),
                    },
                )
            })
            .collect();
        self.set(database, None, &key)
    }

    fn set(&self, database: &Connection, park: Option<usize>, key: &[Value]) -> Result<(), Error> {
        let sets: Vec<String> = self
            .changes
            .iter()
            .enumerate()
            .map(|(index, change)| {
                format!(
                    "{} = ?{}",
                    quoted(&self.table.columns[change.column]),
                    index + 1
                )
            })
            .collect();
        let sql = format!(
            "UPDATE {} SET {} WHERE {}",
            quoted(&self.table.name),
            sets.join(", "),
            self.condition(sets.len())
        );
        let news: Vec<Vec<u8>> = self
            .changes
            .iter()
            .map(|change| match park {
                Some(number) => parked(&change.new, number),
                None => change.new.clone(),
            })
            .collect();
        let stored: Vec<Stored<'_>> = self
            .changes
            .iter()
            .zip(&news)
            .map(|(change, new)| change.stored(new))
            .collect();
        let values = stored.iter().map(|one| one as &dyn ToSql);
        let keys = key.iter().map(|one| one as &dyn ToSql);
        let parameters: Vec<&dyn ToSql> = values.chain(keys).collect();
        let count = database.prepare_cached(&sql)?.execute(&parameters[..])?;
        match count {
            1 => Ok(()),
            _ => Err(Error::StatementChangedRows(count)),
        }
    }

    /// Refuses the row's changes because of `error`.
    fn refuse(&self, error: &Error, refused: &mut Refusals) {
        let text = match error.sqlite_error() {
            Some(_) => error.to_string(),
            None => format!("its row is not found again ({error})"),
        };
        let (how, why) = if is_collision(error) {
            collision()
        } else if is_about_program(&text) {
            (
                Refused::Sealed,
                format!("its table needs what only its program has: {text}"),
            )
        } else if error.sqlite_error_code() == Some(ErrorCode::ConstraintViolation) {
            (
                Refused::Sealed,
                format!("a rule of its table forbids the new value: {text}"),
            )
        } else {
            (
                Refused::Sealed,
                format!("the database refuses the change: {text}"),
            )
        };
        for change in self.changes {
            refused.insert(change.part, (how, why.clone()));
        }
    }
}

/// A value that nothing else has.
fn parked(new: &[u8], number: usize) -> Vec<u8> {
    [new, format!("\u{1}{number}\u{1}").as_bytes()].concat()
}
