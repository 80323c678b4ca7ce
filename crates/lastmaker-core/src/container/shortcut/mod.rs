//! Shortcuts (`.lnk`), after the published specification MS-SHLLINK.
//!
//! The target is written in several ways: in the link information, as bytes of a code page and as
//! UTF-16, in a list of items, in blocks after those. It is yielded once, and when it changes all of
//! them follow: link information and item list are written for the new place, and what
//! described the old one (its relative path, its known folder, its other item list, and on
//! another volume its serial number and its tracker) goes. Working folder, arguments, icon,
//! description, environment blocks and strings of the property store are parts of their own.

mod blocks;
mod fault;
mod info;
mod items;
mod layout;

use super::{
    Container, Each, Fault, LiftFault, NewPart, Part, PartContent, Refused, RefusedPart, Source,
    difference,
};
use crate::about::About;
use crate::layer::ByteEdits;
use crate::scan::Hint;
use blocks::Kind;
use fault::ShortcutFault;
use layout::{Layout, RELATIVE, STRINGS};

/// Shortcuts.
pub(super) struct Shortcut;

const ABOUT: About = About {
    name: "shortcut",
    what: "shortcuts to files, folders and programs",
    content: "the head of a shell link (MS-SHLLINK)",
    names: &[".lnk"],
    read: "the target in link information and item list, working folder, arguments, icon, description, environment blocks, property store; kept consistent",
    limits: "what describes the old target (relative path, known folder, tracker, serial number) goes; letters of an unknown code page without a twin in UTF-16 are sealed",
};

const UNKNOWN_PAGE: &str =
    "its letters are in a code page that the shortcut does not name; make the shortcut anew";

/// Which string a part is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Which {
    /// The target by the link information.
    Target,
    /// The target by the item list, where the two differ or there is only this.
    Items,
    /// One of the strings, by its index.
    String(usize),
    /// An environment block, by its index.
    Environment(usize),
    /// A string of a property store: block, and which string of it.
    Property(usize, usize),
}

impl Container for Shortcut {
    fn about(&self) -> &About {
        &ABOUT
    }

    fn claims(&self, bytes: &[u8], _file_name: &str) -> bool {
        layout::is_link(bytes)
    }

    fn hides(&self) -> bool {
        false
    }

    fn read(&self, source: Source<'_>, each: &mut Each<'_>) -> Result<(), Fault> {
        let Source { bytes, .. } = source;
        let link = Layout::read(bytes).ok_or_else(damaged)?;
        for (which, text) in parts(&link) {
            let (way, hint) = match which {
                Which::Target => ("target", Hint::Name),
                Which::Items => ("item list", Hint::Name),
                Which::String(index) => (STRINGS[index], Hint::for_value(STRINGS[index])),
                Which::Environment(_) => ("environment", Hint::Name),
                Which::Property(..) => ("property", Hint::Name),
            };
            let sealed = text.is_none().then_some(UNKNOWN_PAGE);
            let text = text.unwrap_or_else(|| link.lossy(which));
            each(Part {
                way,
                holding: PartContent::Text {
                    bytes: text.as_bytes(),
                    hint,
                    run: None,
                },
                sealed,
            })?;
        }
        Ok(())
    }

    fn lift(&self, source: Source<'_>, new: &[NewPart]) -> Result<ByteEdits, LiftFault> {
        let Source { bytes, .. } = source;
        let mut link = Layout::read(bytes).ok_or_else(damaged)?;
        let parts = parts(&link);
        // Strings of one property store are counted from the last, so that earlier ones stay.
        for part in new.iter().rev() {
            let (which, old) = parts.get(part.part).ok_or_else(damaged)?;
            let old = old.as_deref().ok_or_else(damaged)?;
            let text = std::str::from_utf8(&part.content).map_err(|_| damaged())?;
            let refused = |fault: ShortcutFault| {
                LiftFault::Parts(vec![RefusedPart::new(
                    part.part,
                    Refused::Sealed,
                    fault.to_string(),
                )])
            };
            let tied = parts.iter().all(|(which, _)| *which != Which::Items);
            link.set(*which, old, text, tied).map_err(refused)?;
        }
        Ok(difference(bytes, &link.write(), 1))
    }
}

fn damaged() -> Fault {
    Fault::Damaged("the shortcut is cut short or damaged")
}

/// Every string, in order; none for one whose letters are not known.
fn parts(link: &Layout) -> Vec<(Which, Option<String>)> {
    let mut all = Vec::new();
    let by_items = link.items.as_deref().and_then(items::path);
    let by_info = link.info.as_ref().map(info::Info::path);
    match &by_info {
        Some(path) if path.as_deref() != Some("") => all.push((Which::Target, path.clone())),
        _ => {}
    }
    if let Some(path) = by_items {
        let same = by_info
            .flatten()
            .is_some_and(|info| info.to_lowercase() == path.to_lowercase());
        if !same {
            all.push((Which::Items, Some(path)));
        }
    }
    for (index, string) in link.strings.iter().enumerate() {
        // The relative path follows the target.
        if let Some(string) = string.as_ref().filter(|_| index != RELATIVE) {
            all.push((Which::String(index), string.text()));
        }
    }
    for (index, block) in link.blocks.iter().enumerate() {
        match block.kind() {
            Some(Kind::Environment) => {
                if let Some(path) = block.environment() {
                    all.push((Which::Environment(index), Some(path)));
                }
            }
            Some(Kind::Properties) => {
                let strings = block.properties().into_iter().enumerate();
                all.extend(strings.map(|(n, text)| (Which::Property(index, n), Some(text))));
            }
            _ => {}
        }
    }
    all
}

impl Layout {
    /// A string whose letters are not all known, as far as they are.
    fn lossy(&self, which: Which) -> String {
        match which {
            Which::Target => self
                .info
                .as_ref()
                .map(info::Info::lossy)
                .unwrap_or_default(),
            Which::String(index) => self.strings[index]
                .as_ref()
                .map(layout::Counted::lossy)
                .unwrap_or_default(),
            _ => String::new(),
        }
    }

    /// Puts `new` where `old` was; `tied` says that link information and item list name the
    /// same target.
    fn set(&mut self, which: Which, old: &str, new: &str, tied: bool) -> Result<(), ShortcutFault> {
        match which {
            Which::Target => {
                let info = self.info.as_mut().ok_or(ShortcutFault::NoTarget)?;
                info.retarget(new)?;
                if let Some(list) = self.items.take_if(|_| tied) {
                    // Without an item list the link information alone says where it leads.
                    self.items = items::retarget(&list, old, new);
                }
                self.forget_old_target(old, new);
            }
            Which::Items => {
                let list = self.items.as_deref().unwrap_or_default();
                let list = items::retarget(list, old, new);
                let list = list.ok_or(ShortcutFault::NoFormInItems)?;
                self.items = Some(list);
                self.forget_old_target(old, new);
            }
            Which::String(index) => {
                let string = self.strings[index]
                    .as_mut()
                    .ok_or(ShortcutFault::StringGone)?;
                string.set(new)?;
            }
            Which::Environment(index) => self.blocks[index].set_environment(new)?,
            Which::Property(index, number) => self.blocks[index].set_property(number, new),
        }
        Ok(())
    }

    /// Removes what described the old target and would contradict the new one.
    fn forget_old_target(&mut self, old: &str, new: &str) {
        let same_root = info::root(old).eq_ignore_ascii_case(info::root(new));
        self.strings[RELATIVE] = None;
        self.blocks.retain(|block| match block.kind() {
            Some(Kind::OldTarget) => false,
            Some(Kind::Tracker) => same_root,
            _ => true,
        });
    }
}
