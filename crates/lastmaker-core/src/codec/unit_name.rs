//! Names of mount units, which follow from the place (systemd.unit(5), "String Escaping for
//! Inclusion in Unit Names"): `-` is a separator, `\x2d` a letter by its number.

use crate::layer::{Edits, Layer, Malformed, MapBuilder, Opened, Unfit};

/// The name of a mount unit: `srv-herbarium.mount` is `/srv/herbarium`.
///
/// It is read and never written: the unit itself has that name.
#[derive(Debug)]
pub struct UnitName;

const MALFORMED: Malformed = Malformed {
    what: "no name of a mount unit",
    at: 0,
};

impl Layer for UnitName {
    fn name(&self) -> &'static str {
        "unit name"
    }

    fn hides_separators(&self) -> bool {
        true
    }

    fn open(&self, outer: &[u8]) -> Result<Opened, Malformed> {
        let suffixes: [&[u8]; 2] = [b".automount", b".mount"];
        let stem = suffixes
            .iter()
            .find_map(|suffix| outer.strip_suffix(*suffix));
        let stem = stem.filter(|stem| !stem.is_empty()).ok_or(MALFORMED)?;
        let (mut content, mut map) = (b"/".to_vec(), MapBuilder::default());
        let mut at = 0;
        while at < stem.len() {
            let (letter, width) = match stem[at] {
                b'-' => (b'/', 1),
                b'\\' => {
                    let digits = stem.get(at + 2..at + 4).filter(|_| stem[at + 1] == b'x');
                    let digits = std::str::from_utf8(digits.ok_or(MALFORMED)?).unwrap_or("");
                    (u8::from_str_radix(digits, 16).map_err(|_| MALFORMED)?, 4)
                }
                letter => (letter, 1),
            };
            // The first letter brings the separator of the root with it.
            map.unit(if at == 0 { 2 } else { 1 }, at..at + width);
            content.push(letter);
            at += width;
        }
        Ok(Opened {
            content,
            map: map.finish(outer.len()),
        })
    }

    fn lift(&self, _: &[u8], _: &Opened, _: &Edits) -> Result<Edits, Unfit> {
        Err(Unfit::NotWritable {
            what: "it names a mount unit, whose name follows from its place: rename the unit, and this with it",
        })
    }
}
