//! The law as the oracle of every target.

use lastmaker_core::layer::splice;
use lastmaker_core::report::Standing;
use lastmaker_core::rewrite::{DocumentPlan, PlanOptions, plan};
use lastmaker_core::scan::{Document, Reading};
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
    let sheet = sheet();
    let Some(plan) = planned(bytes, name, &sheet) else {
        return;
    };
    let Some(new) = plan.new else {
        assert!(plan.edits.is_empty(), "edits without a new copy");
        return;
    };
    assert_eq!(splice(bytes, &plan.edits), new, "the copy is not what the edits make");
    assert!(
        plan.references.iter().any(|one| one.standing == Standing::ToMove),
        "a change without a reference"
    );
    let again = planned(&new, name, &sheet).expect("the new copy is text");
    assert!(again.edits.is_empty(), "a second run changes something: {:?}", again.references);
}
