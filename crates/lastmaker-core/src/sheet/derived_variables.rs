//! Variables that every machine has, derived from those that a sheet gives.

use super::Sheet;
use crate::place::Place;

/// Below which variable's value others usually lie, by which names.
const BELOW: [(&str, &str, &[&str]); 9] = [
    ("APPDATA", "USERPROFILE", &["AppData", "Roaming"]),
    ("LOCALAPPDATA", "USERPROFILE", &["AppData", "Local"]),
    ("TEMP", "USERPROFILE", &["AppData", "Local", "Temp"]),
    ("TMP", "USERPROFILE", &["AppData", "Local", "Temp"]),
    ("~", "USERPROFILE", &[]),
    ("~", "HOME", &[]),
    ("XDG_CONFIG_HOME", "HOME", &[".config"]),
    ("XDG_DATA_HOME", "HOME", &[".local", "share"]),
    ("XDG_CACHE_HOME", "HOME", &[".cache"]),
];

impl Sheet {
    /// Adds the variables that follow from those given, unless they are given themselves.
    pub fn add_usual_variables(&mut self) {
        for (name, base, below) in BELOW {
            let given = |wanted: &str| {
                self.variables
                    .iter()
                    .find(|(name, _)| name.eq_ignore_ascii_case(wanted))
                    .map(|(_, value)| value.clone())
            };
            if given(name).is_some() {
                continue;
            }
            if let Some(base) = given(base) {
                let value = below
                    .iter()
                    .fold(base, |place: Place, part| place.child(part));
                self.variables.push((name.to_owned(), value));
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_given_is_kept_and_the_rest_follows() {
        let mut sheet = Sheet::default();
        let mut give = |name: &str, value: &str| {
            sheet
                .variables
                .push((name.to_owned(), Place::parse(value).unwrap()));
        };
        give("UserProfile", r"C:\Users\ines");
        give("TEMP", r"E:\Temp");
        give("HOME", "/home/ines");
        sheet.add_usual_variables();
        let value = |name: &str| {
            let found = sheet.variables.iter().find(|(known, _)| known == name);
            found.map(|(_, value)| value.to_string())
        };
        let cases = [
            ("APPDATA", Some(r"C:\Users\ines\AppData\Roaming")),
            ("TEMP", Some(r"E:\Temp")),
            ("TMP", Some(r"C:\Users\ines\AppData\Local\Temp")),
            ("~", Some(r"C:\Users\ines")),
            ("XDG_DATA_HOME", Some("/home/ines/.local/share")),
            ("PROGRAMDATA", None),
        ];
        for (name, expected) in cases {
            assert_eq!(value(name).as_deref(), expected, "{name}");
        }
    }
}
