//! A text larger than a document may be, planned window by window by the planner of every document.

use blake3::Hash;

use crate::base::compact::CompactList;
use crate::judge::Unproven;
use crate::layer::{ByteEdits, Edit, Edits};
use crate::open::{LargeFault, LargeText, Source, SplicedSource, pieces};
use crate::report::Reference;
use crate::tree::Sieve;

use super::container::plan_windows;
use crate::plan::decide::options::PlanOptions;

/// What becomes of a large text.
#[derive(Debug)]
pub struct LargePlan {
    /// The format that read it.
    pub format: &'static str,
    /// Name of its encoding.
    pub encoding: &'static str,
    /// Every reference that a move touches, in order.
    pub references: CompactList<Reference>,
    /// The edits of its bytes.
    pub edits: ByteEdits,
    /// Hash of it as it was read, if it is planned for a record.
    pub before: Option<Hash>,
    /// Hash of it as it will be; likewise, and if it changes.
    pub after: Option<Hash>,
}

/// Why a large text is left.
#[derive(Debug, thiserror::Error)]
pub enum LargePlanFault {
    /// It cannot be read.
    #[error(transparent)]
    Unread(#[from] LargeFault),
    /// A part of it could not be read or changed.
    #[error("{0}")]
    Left(String),
    /// The new copy would not be what was meant.
    #[error(transparent)]
    Unproven(#[from] Unproven),
}

/// Plans the rewrite of `text`; none if no move touches it.
///
/// # Errors
/// As reading does; and where a window of it, or the new copy, is not as it must be.
pub fn plan_large(
    text: &LargeText<'_>,
    options: PlanOptions<'_>,
    sieve: &Sieve,
) -> Result<Option<LargePlan>, LargePlanFault> {
    let mut references = CompactList::default();
    let mut edits: Vec<Edit> = Vec::new();
    // The whole is proved by its edits.
    let of_window = PlanOptions {
        for_record: true,
        ..options
    };
    let left = plan_windows(text, of_window, sieve, &mut |start, plan| {
        references.append(plan.references);
        edits.extend(plan.edits.into_vec().into_iter().map(|edit| Edit {
            span: edit.span.start + start..edit.span.end + start,
            ..edit
        }));
    })?;
    if let Some(why) = left.into_iter().next() {
        return Err(LargePlanFault::Left(why));
    }
    if references.is_empty() {
        return Ok(None);
    }
    // Windows come in order, and so do the edits of each.
    let edits: ByteEdits = Edits::new(edits).map_err(|_| Unproven::Reference)?;
    let new = SplicedSource::new(text.source(), &edits);
    // Every window was proved by itself.
    if !edits.is_empty() && !text.is_taken_alike(&new)? {
        return Err(Unproven::OtherEncoding.into());
    }
    let wanted = |source: &dyn Source| options.for_record.then(|| hash(source)).transpose();
    let after = if edits.is_empty() {
        None
    } else {
        wanted(&new)?
    };
    let before = wanted(text.source())?;
    Ok(Some(LargePlan {
        format: text.format().name(),
        encoding: text.encoding().0.name(),
        references,
        edits,
        before,
        after,
    }))
}

fn hash(source: &dyn Source) -> Result<Hash, LargeFault> {
    let mut hasher = blake3::Hasher::new();
    pieces(source, &mut |piece| {
        hasher.update(piece);
    })?;
    Ok(hasher.finalize())
}
