//! The law as the oracle of every target, and of the core's test over the corpus.

use lastmaker_core::layer::splice;
use lastmaker_core::report::Standing;
use lastmaker_core::rewrite::{DocumentPlan, PlanOptions, plan};
use lastmaker_core::scan::{Document, Reading};
use lastmaker_core::sheet::Sheet;

/// Two moves: a folder that gains a blank, and a share.
fn sheet() -> Sheet {
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
    let options = PlanOptions {
        sheet,
        reading,
        repair: false,
    };
    Some(plan(&document, bytes, name, options))
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
    let again = planned(&new, name, &sheet).expect("the new copy is text");
    assert!(
        again.edits.is_empty(),
        "{name}: a second run changes {:?}",
        again.references
    );
    Some(plan.edits.as_slice().len())
}
