//! Which tables a database has, by what their rows are found, and what is in its schema.

use std::collections::HashSet;

use rusqlite::{Connection, Result};

use crate::scan::may_hold_place;

/// By what a row is found again.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Key {
    /// Its number, under a name that no column hides.
    Row(&'static str),
    /// The columns of the primary key, in a table without row numbers.
    Primary(Vec<String>),
}

impl Key {
    pub(super) fn columns(&self) -> Vec<&str> {
        match self {
            Self::Row(name) => vec![name],
            Self::Primary(columns) => columns.iter().map(String::as_str).collect(),
        }
    }
}

/// A table, and what of it is read.
#[derive(Debug)]
pub(super) struct Table {
    pub(super) name: String,
    pub(super) key: Key,
    /// The columns that hold something of their own.
    pub(super) columns: Vec<String>,
    /// Why nothing in it is changed.
    pub(super) sealed: Option<&'static str>,
}

impl Table {
    /// The statement that yields each row: what it is found by, then its columns.
    pub(super) fn select(&self) -> String {
        let keys = self.key.columns().into_iter().map(quoted);
        let columns = self.columns.iter().map(|column| quoted(column));
        let all: Vec<String> = keys.chain(columns).collect();
        let order = match &self.key {
            Key::Row(name) => format!(" ORDER BY {}", quoted(name)),
            Key::Primary(_) => String::new(),
        };
        format!(
            "SELECT {} FROM {}{order}",
            all.join(", "),
            quoted(&self.name)
        )
    }
}

/// A name as SQL takes it.
pub(super) fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

/// A full-text table that indexes another one.
#[derive(Debug)]
pub(super) struct Index {
    pub(super) name: String,
    /// The table that it indexes, in lower case.
    pub(super) of: String,
}

/// What is read of a database.
#[derive(Debug, Default)]
pub(super) struct Schema {
    pub(super) tables: Vec<Table>,
    pub(super) indexes: Vec<Index>,
    /// What of the schema may name a place, and the way to it.
    pub(super) texts: Vec<(String, String)>,
}

const OTHER_MODULE: &str = "it belongs to a virtual table of a kind that only its program knows";
const NO_ROW_NUMBERS: &str =
    "the names of its row numbers are all hidden by columns, so its rows cannot be told apart";
const NO_TOKENIZER: &str = "its full-text index needs a tokenizer that only its program has";

impl Schema {
    pub(super) fn read(database: &Connection) -> Result<Self> {
        let mut schema = Self::default();
        let mut entries: Vec<(String, String, String)> = Vec::new();
        let mut statement = database
            .prepare("SELECT type, name, coalesce(sql, '') FROM sqlite_schema ORDER BY rowid")?;
        let mut rows = statement.query([])?;
        while let Some(row) = rows.next()? {
            entries.push((row.get(0)?, row.get(1)?, row.get(2)?));
        }
        let without_rows = without_row_numbers(database)?;
        let virtual_tables: Vec<(&str, Module)> = entries
            .iter()
            .filter_map(|(_, name, sql)| Some((name.as_str(), Module::of(sql)?)))
            .collect();
        for (kind, name, sql) in &entries {
            if may_hold_place(sql) {
                schema
                    .texts
                    .push((format!("{kind} {name} (schema)"), sql.clone()));
            }
            if kind != "table" || name.to_ascii_lowercase().starts_with("sqlite_") {
                continue;
            }
            let module = virtual_tables.iter().find(|(table, _)| table == name);
            let owner = virtual_tables.iter().find(|(table, _)| {
                name.strip_prefix(table)
                    .is_some_and(|rest| rest.starts_with('_'))
            });
            match (module, owner) {
                (Some((_, Module::FullText)), _) => {
                    schema.tables.extend(full_text(database, name));
                }
                (Some((_, Module::External(of))), _) => schema.indexes.push(Index {
                    name: name.clone(),
                    of: of.to_ascii_lowercase(),
                }),
                (Some(_), _) => {}
                // What a readable full-text table keeps its content in is read through it.
                (None, Some((owner, Module::FullText))) if is_readable(database, owner) => {}
                (None, Some((_, Module::External(_) | Module::Contentless))) => {}
                (None, Some((_, module))) => {
                    let why = match module {
                        Module::FullText => NO_TOKENIZER,
                        _ => OTHER_MODULE,
                    };
                    let mut table = ordinary(database, name, &without_rows)?;
                    table.sealed = Some(why);
                    schema.tables.push(table);
                }
                (None, None) => {
                    schema.tables.push(ordinary(database, name, &without_rows)?);
                }
            }
        }
        Ok(schema)
    }
}

/// What keeps the rows of a virtual table.
#[derive(Debug, PartialEq, Eq)]
enum Module {
    /// A full-text table with its own content.
    FullText,
    /// A full-text index of this table.
    External(String),
    /// A full-text index of nothing that is in the database.
    Contentless,
    /// Something else.
    Other,
}

impl Module {
    /// The module of a virtual table; none if `sql` makes no such table.
    fn of(sql: &str) -> Option<Self> {
        let lower = sql.to_ascii_lowercase();
        let rest = lower.trim_start().strip_prefix("create")?.trim_start();
        rest.strip_prefix("virtual")?;
        let after = lower.find(" using ").or_else(|| lower.find("\nusing "))? + 7;
        let module = lower[after..].trim_start();
        let full_text = ["fts3", "fts4", "fts5"].iter().any(|name| {
            module.strip_prefix(name).is_some_and(|rest| {
                rest.starts_with(|c: char| c == '(' || c.is_whitespace()) || rest.is_empty()
            })
        });
        if !full_text {
            return Some(Self::Other);
        }
        let open = after + lower[after..].find('(').unwrap_or(0);
        Some(match option(&sql[open..], "content") {
            None => Self::FullText,
            Some(of) if of.is_empty() => Self::Contentless,
            Some(of) => Self::External(of),
        })
    }
}

/// The value of an option among the arguments of a module.
fn option(arguments: &str, name: &str) -> Option<String> {
    arguments.split(',').find_map(|argument| {
        let argument = argument.trim_matches(|c: char| c.is_whitespace() || c == '(' || c == ')');
        let (key, value) = argument.split_once('=')?;
        key.trim().eq_ignore_ascii_case(name).then(|| {
            let value = value.trim();
            value.trim_matches(['\'', '"', '`', '[', ']']).to_owned()
        })
    })
}

/// Whether a full-text table can be read here.
fn is_readable(database: &Connection, name: &str) -> bool {
    let sql = format!("SELECT * FROM {} LIMIT 1", quoted(name));
    database
        .prepare(&sql)
        .and_then(|mut statement| statement.exists([]))
        .is_ok()
}

/// A full-text table with its own content, if it can be read here.
fn full_text(database: &Connection, name: &str) -> Option<Table> {
    is_readable(database, name).then_some(())?;
    let columns = columns(database, name).ok()?;
    Some(Table {
        name: name.to_owned(),
        key: Key::Row("rowid"),
        columns: columns
            .into_iter()
            .filter(|one| one.hidden == 0)
            .map(|one| one.name)
            .collect(),
        sealed: None,
    })
}

struct Column {
    name: String,
    primary: usize,
    /// 0: a column; 1: one of a virtual table that is not shown; 2 and 3: computed.
    hidden: usize,
}

fn columns(database: &Connection, table: &str) -> Result<Vec<Column>> {
    let mut statement = database.prepare("SELECT name, pk, hidden FROM pragma_table_xinfo(?1)")?;
    let rows = statement.query_map([table], |row| {
        Ok(Column {
            name: row.get(0)?,
            primary: row.get(1)?,
            hidden: row.get(2)?,
        })
    })?;
    rows.collect()
}

/// The tables whose rows have no numbers.
fn without_row_numbers(database: &Connection) -> Result<HashSet<String>> {
    let sql = "SELECT name FROM pragma_table_list WHERE schema = 'main' AND wr";
    let mut statement = database.prepare(sql)?;
    let names = statement.query_map([], |row| row.get(0))?;
    names.collect()
}

fn ordinary(database: &Connection, name: &str, without_rows: &HashSet<String>) -> Result<Table> {
    let columns = columns(database, name)?;
    let mut sealed = None;
    let key = if without_rows.contains(name) {
        let mut primary: Vec<&Column> = columns.iter().filter(|one| one.primary > 0).collect();
        primary.sort_by_key(|one| one.primary);
        Key::Primary(primary.into_iter().map(|one| one.name.clone()).collect())
    } else {
        let free = ["rowid", "_rowid_", "oid"].into_iter().find(|name| {
            !columns
                .iter()
                .any(|one| one.name.eq_ignore_ascii_case(name))
        });
        if free.is_none() {
            sealed = Some(NO_ROW_NUMBERS);
        }
        Key::Row(free.unwrap_or("rowid"))
    };
    Ok(Table {
        name: name.to_owned(),
        key,
        columns: columns
            .into_iter()
            .filter(|one| one.hidden == 0)
            .map(|one| one.name)
            .collect(),
        sealed,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn modules_are_told_from_their_statement() {
        let cases = [
            ("CREATE TABLE a(b)", None),
            (
                "CREATE VIRTUAL TABLE n USING fts5(a, b)",
                Some(Module::FullText),
            ),
            (
                "create virtual table n using fts4(content=\"sheets\", a)",
                Some(Module::External("sheets".to_owned())),
            ),
            (
                "CREATE VIRTUAL TABLE n USING fts5(a, content='sheets', content_rowid='id')",
                Some(Module::External("sheets".to_owned())),
            ),
            (
                "CREATE VIRTUAL TABLE n USING fts5(a, content='')",
                Some(Module::Contentless),
            ),
            (
                "CREATE VIRTUAL TABLE n USING fts5vocab('x', 'row')",
                Some(Module::Other),
            ),
            (
                "CREATE VIRTUAL TABLE n USING rtree(id, x, y)",
                Some(Module::Other),
            ),
        ];
        for (sql, module) in cases {
            assert_eq!(Module::of(sql), module, "{sql}");
        }
    }
}
