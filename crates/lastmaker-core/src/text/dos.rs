//! The code pages of DOS, which the WHATWG Encoding Standard lacks but for one.

use oem_cp::code_table as table;

/// A code page of DOS: its bytes beyond ASCII, each a letter.
#[derive(Debug)]
pub struct DosPage {
    /// The name that people know it by.
    pub name: &'static str,
    letters: &'static [char; 128],
}

impl PartialEq for DosPage {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl Eq for DosPage {}

const fn page(name: &'static str, letters: &'static [char; 128]) -> DosPage {
    DosPage { name, letters }
}

/// Every page, by number.
pub static DOS_PAGES: [DosPage; 10] = [
    page("cp437", &table::DECODING_TABLE_CP437),
    page("cp737", &table::DECODING_TABLE_CP737),
    page("cp775", &table::DECODING_TABLE_CP775),
    page("cp850", &table::DECODING_TABLE_CP850),
    page("cp852", &table::DECODING_TABLE_CP852),
    page("cp855", &table::DECODING_TABLE_CP855),
    page("cp858", &table::DECODING_TABLE_CP858),
    page("cp861", &table::DECODING_TABLE_CP861),
    page("cp862", &table::DECODING_TABLE_CP862),
    page("cp865", &table::DECODING_TABLE_CP865),
];

impl DosPage {
    /// The page of this label: `cp850`, `ibm850`, `850`.
    pub fn for_label(label: &str) -> Option<&'static Self> {
        let lower = label.trim().to_ascii_lowercase();
        let number = ["cp", "ibm", "dos"]
            .iter()
            .find_map(|lead| lower.strip_prefix(lead))
            .unwrap_or(&lower)
            .trim_start_matches(['-', '_']);
        DOS_PAGES.iter().find(|page| page.name[2..] == *number)
    }

    /// The letter of a byte.
    pub fn letter(&self, byte: u8) -> char {
        match byte.checked_sub(0x80) {
            Some(index) => self.letters[usize::from(index)],
            None => byte as char,
        }
    }

    /// The byte of a letter; none if the page lacks it.
    pub fn byte(&self, letter: char) -> Option<u8> {
        if letter.is_ascii() {
            return u8::try_from(letter).ok();
        }
        let index = self.letters.iter().position(|known| *known == letter)?;
        u8::try_from(index + 0x80).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_byte_comes_back() {
        for page in &DOS_PAGES {
            for byte in 0..=255 {
                assert_eq!(
                    page.byte(page.letter(byte)),
                    Some(byte),
                    "{} {byte}",
                    page.name
                );
            }
        }
        let known = |label| DosPage::for_label(label).map(|page| page.letter(0x81));
        assert_eq!(known("IBM850"), Some('\u{fc}'));
        assert_eq!(known("437"), Some('\u{fc}'));
        assert_eq!(known("cp1252"), None);
        assert_eq!(known("cp866"), None);
    }
}
