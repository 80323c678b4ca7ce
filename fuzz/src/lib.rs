//! The law as the oracle of every target, and of the core's test over the corpus.

pub mod every_way;
pub mod other_readers;

use lastmaker_core::container::{Budget, Container, NewPart, PartContent, Source, recognise};
use lastmaker_core::layer::splice;
use lastmaker_core::open::{Document, Reading};
use lastmaker_core::plan::{DocumentPlan, PlanOptions, plan};
use lastmaker_core::report::Standing;
use lastmaker_core::sheet::Sheet;

/// Two moves: a folder that gains a blank, and a share.
pub fn sheet() -> Sheet {
    let mut sheet = Sheet::default();
    for one in [
        r"D:\Herbarium=H:\My Col\Herbarium",
        r"\\mossbank\press=\\fernhall\press",
    ] {
        sheet.add_move(one).expect("a sound move");
    }
    sheet
}

fn planned(bytes: &[u8], name: &str, sheet: &Sheet) -> Option<DocumentPlan> {
    let reading = Reading::default();
    let document = Document::open(bytes, name, reading)?;
    Some(plan(&document, PlanOptions::of(sheet)))
}

/// Rewrites `bytes` as a file of this name: only the edits change anything, and a second run
/// changes nothing.
pub fn obeys_the_law(bytes: &[u8], name: &str) {
    let _ = edits_by_the_law(bytes, name);
}

/// The same, and says how many edits there were; none if the bytes are no text.
pub fn edits_by_the_law(bytes: &[u8], name: &str) -> Option<usize> {
    let sheet = sheet();
    let plan = planned(bytes, name, &sheet)?;
    let Some(new) = plan.new else {
        assert!(plan.edits.is_empty(), "{name}: edits without a new copy");
        return Some(0);
    };
    assert_eq!(
        splice(bytes, &plan.edits),
        new,
        "{name}: the copy is not what the edits make"
    );
    assert!(
        plan.references
            .iter()
            .any(|one| one.standing == Standing::ToMove),
        "{name}: a change without a reference"
    );
    read_by_others(bytes, &new, name, plan.references.len());
    let again = planned(&new, name, &sheet).expect("the new copy is text");
    assert!(
        again.edits.is_empty(),
        "{name}: a second run changes {:?}",
        again.references
    );
    Some(plan.edits.as_slice().len())
}

/// Holds a new copy to what the well-kept reader of its format says of it.
fn read_by_others(old: &[u8], new: &[u8], name: &str, changed: usize) {
    let open = |bytes| Document::open(bytes, name, Reading::default());
    if let (Some(old), Some(new)) = (open(old), open(new)) {
        let format = old.format.name();
        other_readers::agree(format, &old.text.content, &new.text.content, changed);
    }
}

/// The contents of a container's parts, in order; none if it cannot be read.
fn parts(container: &dyn Container, bytes: &[u8]) -> Option<Vec<Vec<u8>>> {
    let budget = Budget::new(1 << 22);
    let mut all = Vec::new();
    let source = Source {
        bytes,
        name: "",
        budget: &budget,
    };
    let read = container.read(source, &mut |part| {
        all.push(match part.holding {
            PartContent::Document { bytes, .. } | PartContent::Text { bytes, .. } => bytes.to_vec(),
            PartContent::Unreadable(why) => why.to_string().into_bytes(),
        });
        Ok(())
    });
    read.ok().map(|()| all)
}

/// Puts another content into the first part that names the old place; what comes of it holds
/// that, and every other part as it was. Says whether a part was changed.
pub fn container_reads_what_it_writes(bytes: &[u8]) -> bool {
    const OLD: &str = "Herbarium";
    let Some(container) = recognise(bytes, "") else {
        return false;
    };
    let Some(before) = parts(container, bytes) else {
        return false;
    };
    let named = before
        .iter()
        .position(|part| std::str::from_utf8(part).is_ok_and(|text| text.contains(OLD)));
    let Some(part) = named else {
        return false;
    };
    let content = String::from_utf8_lossy(&before[part])
        .replace(OLD, "My Collection")
        .into_bytes();
    let budget = Budget::new(1 << 22);
    let source = Source {
        bytes,
        name: "",
        budget: &budget,
    };
    let new = [NewPart {
        part,
        content: content.clone(),
    }];
    let Ok(edits) = container.lift(source, &new) else {
        return false;
    };
    let after = parts(container, &splice(bytes, &edits));
    // What a damaged container makes of it may not hold: the proof is there to find that out.
    after.is_some_and(|after| after.get(part) == Some(&content))
}
