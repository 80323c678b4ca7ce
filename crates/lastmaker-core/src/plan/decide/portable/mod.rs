//! References that take a spelling which survives the next move: relative to their document, or below an
//! environment variable's value.

mod by_variable;
mod relative;

use std::path::{Path, PathBuf};

use crate::format::Role;
use crate::job::Portable;
use crate::judge::FoundIn;
use crate::layer::{Edit, OpenedChain};
use crate::open::{Document, OpenedDocument};
use crate::place::Place;
use crate::scan::Hint;
use crate::sheet::{Relocation, Sheet};

use by_variable::Variables;
use relative::NewHome;

/// Which spellings the references of a document may take.
#[derive(Debug)]
pub(in crate::plan) struct Portability {
    /// What they may be made relative to.
    home: Option<NewHome>,
    variables: Variables,
}

impl Portability {
    /// That of the file at `canonical`; `below` is its path below the scope, `folder_of` says where a new
    /// place is seen. None if all of its references stay absolute.
    pub(in crate::plan) fn of(
        portable: Portable<'_>,
        sheet: &Sheet,
        canonical: &Path,
        below: &Path,
        folder_of: impl Fn(&Place) -> Option<PathBuf>,
    ) -> Option<Self> {
        let said = portable.said.iter();
        let said = said.filter(|said| !said.files.leaves_out(below, false));
        let forms: Vec<_> = said.map(|said| said.variables).collect();
        if forms.is_empty() && !portable.known {
            return None;
        }
        let relative = forms.contains(&None);
        let home = (relative || portable.known)
            .then(|| NewHome::of(relative, sheet, canonical, &folder_of))
            .flatten();
        Some(Self {
            home,
            variables: Variables::of(portable.known, sheet, canonical, folder_of)
                .and_said(forms.into_iter().flatten().next()),
        })
    }

    /// That of a document in the file.
    pub(in crate::plan) fn of_leaf(&self, leaf: &OpenedDocument<'_, '_>) -> Self {
        Self {
            home: self.home.as_ref().and_then(|home| home.of_leaf(leaf)),
            variables: self.variables.of_leaf(leaf),
        }
    }

    /// Such a spelling of a reference that changes, if its program knows one.
    pub(in crate::plan) fn respelled(
        &self,
        document: &Document<'_>,
        change: Change<'_>,
        sheet: &Sheet,
    ) -> Option<Respelled> {
        if !change.is_plain() {
            return None;
        }
        let home = self.home.as_ref();
        let relative = home.and_then(|home| relative::relative(document, change, home));
        relative.or_else(|| self.variables.respelled(document, change, sheet))
    }
}

/// A reference and what it becomes where it names its new place in full.
#[derive(Clone, Copy)]
pub(in crate::plan) struct Change<'a> {
    pub(in crate::plan) case: FoundIn<'a>,
    pub(in crate::plan) relocation: &'a Relocation,
    pub(in crate::plan) new: &'a Place,
    pub(in crate::plan) edits: &'a [Edit],
}

impl Change<'_> {
    /// Whether it is a value that names its place as it stands.
    fn is_plain(self) -> bool {
        let FoundIn { site, found, .. } = self.case;
        let crosses = found.root.is_windows() != self.new.root.is_windows();
        let odd = found.doubt.is_some() || found.flaw.is_some() || self.relocation.seen.is_some();
        site.role == Role::Value && site.hint != Hint::Prose && !crosses && !odd
    }
}

/// A reference that takes another spelling than the one it has: an edit of the string that holds it.
#[derive(Clone, Debug)]
pub(crate) struct Respelled {
    /// The string with as many of its layers taken off as are put on what comes in.
    pub(crate) chain: OpenedChain,
    /// The edit of what it reads so.
    pub(crate) edit: Edit,
    /// The place that our reader finds there afterwards; none if the whole string is a relative reference.
    pub(in crate::plan) reads: Option<Place>,
    /// Whether letters come in that mean something to the program, as it is known to take them.
    pub(in crate::plan) means_them: bool,
}

impl Respelled {
    /// What a string that becomes a relative reference reads then; `raw` is its passage as written.
    pub(in crate::plan) fn content(&self, raw: &str) -> String {
        let kept = &self.chain.content(raw)[self.edit.span.end..];
        format!("{}{kept}", String::from_utf8_lossy(&self.edit.with))
    }
}
