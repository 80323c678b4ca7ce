//! How strings are escaped where they stand: one syntax a file, each a [`Layer`].

mod by_hand;
mod file_uri;
mod json;
mod percent;
mod registry;
mod window;

pub use by_hand::typed_by_hand;
pub use file_uri::FileUri;
pub use json::{JsonString, JsonStyle};
pub use percent::Percent;
pub use registry::{RegistryHex, RegistryString};
pub use window::Window;

use crate::layer::{Layer, Opened};

/// Writes `text` the way `layer` would write it where nothing stood before; none if the
/// layer cannot.
pub fn encode_fresh(layer: &dyn Layer, text: &str) -> Option<String> {
    use crate::layer::{Edit, Edits, UnitMap, splice};
    let empty = Opened {
        content: Vec::new(),
        map: UnitMap::default(),
    };
    let edits = Edits::new(vec![Edit {
        span: 0..0,
        with: text.as_bytes().to_vec(),
    }])
    .ok()?;
    let lifted = layer.lift(b"", &empty, &edits).ok()?;
    String::from_utf8(splice(b"", &lifted)).ok()
}
