//! Columns that hold a hash of the path beside them, by which programs find a row or a preview.

use md5::{Digest, Md5};
use rusqlite::types::ValueRef;
use sha1::Sha1;
use sha2::Sha256;

/// The name of the hash of `text` that `value` is, if it is one.
pub(super) fn is_hash_of(value: ValueRef<'_>, text: &str) -> Option<&'static str> {
    let told = match value {
        ValueRef::Text(digits) => unhex(digits)?,
        ValueRef::Blob(bytes) if matches!(bytes.len(), 16 | 20 | 32) => bytes.to_vec(),
        ValueRef::Integer(number) => {
            let crc = |bytes: &[u8]| {
                let mut crc = flate2::Crc::new();
                crc.update(bytes);
                let sum = crc.sum();
                i64::from(sum) == number || i64::from(sum as i32) == number
            };
            // Small numbers are counts and sizes.
            let large = number.unsigned_abs() > 1 << 20;
            return (large && forms(text).iter().any(|form| crc(form))).then_some("CRC-32");
        }
        _ => return None,
    };
    let same = |name, hash: fn(&[u8]) -> Vec<u8>| {
        forms(text)
            .iter()
            .any(|form| hash(form) == told)
            .then_some(name)
    };
    match told.len() {
        16 => same("MD5", |bytes| Md5::digest(bytes).to_vec()),
        20 => same("SHA-1", |bytes| Sha1::digest(bytes).to_vec()),
        32 => same("SHA-256", |bytes| Sha256::digest(bytes).to_vec()),
        _ => None,
    }
}

/// What programs hash of a path: as it is, in lower case, with either slash, in UTF-8 and
/// in UTF-16.
fn forms(text: &str) -> Vec<Vec<u8>> {
    let mut all = Vec::new();
    for cased in [text.to_owned(), text.to_lowercase(), text.to_uppercase()] {
        for slashed in [
            cased.clone(),
            cased.replace('\\', "/"),
            cased.replace('/', "\\"),
        ] {
            all.push(super::super::bytes::to_utf16(&slashed));
            all.push(slashed.into_bytes());
        }
    }
    all
}

/// The bytes of 32, 40 or 64 hex digits.
fn unhex(digits: &[u8]) -> Option<Vec<u8>> {
    if !matches!(digits.len(), 32 | 40 | 64) {
        return None;
    }
    let value = |b: u8| (b as char).to_digit(16).map(|n| n as u8);
    digits
        .chunks(2)
        .map(|pair| Some(value(pair[0])? << 4 | value(pair[1])?))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hashes_of_a_path_are_known_and_others_are_not() {
        // Figures by md5sum, sha1sum, sha256sum and Python's zlib.
        let path = r"D:\Herbarium\0412.tif";
        let cases: [(ValueRef<'_>, Option<&str>); 4] = [
            (ValueRef::Text(b"0000000000000000000000000000000a"), None),
            (ValueRef::Text(b"a tree"), None),
            (ValueRef::Integer(4711), None),
            (ValueRef::Null, None),
        ];
        for (value, known) in cases {
            assert_eq!(is_hash_of(value, path), known, "{value:?}");
        }
        // As other programs compute them: md5sum of the path in lower case, sha256sum of the path
        // with slashes.
        let md5 = b"D5921920E470FAF613FAF55D2F5B2806";
        assert_eq!(is_hash_of(ValueRef::Text(md5), path), Some("MD5"));
        let sha = "636612129a654314d5094487e30bafafcf60bac7a7ad5e3ea9e39692bcd1f632";
        let byte = |pair: &[u8]| u8::from_str_radix(std::str::from_utf8(pair).unwrap(), 16);
        let sha: Vec<u8> = sha
            .as_bytes()
            .chunks(2)
            .map(|pair| byte(pair).unwrap())
            .collect();
        assert_eq!(is_hash_of(ValueRef::Blob(&sha), path), Some("SHA-256"));
        assert_eq!(
            is_hash_of(ValueRef::Blob(&sha), "D:/Herbarium/0413.tif"),
            None
        );
    }
}
