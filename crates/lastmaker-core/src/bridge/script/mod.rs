//! Scripts that make links where they are run, and their reverse.
//!
//! Each looks before it makes, leaves what stands there, and can be run twice. Places hold no control
//! characters, so every one of them can be written down in every language.

mod cmd;
mod power_shell;
mod sh;

use super::site::{SET_ASIDE, Verdict, letter_for};
use super::{Bridge, Way};
use crate::place::Place;

/// The language of a script.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Language {
    /// The command interpreter of Windows.
    Cmd,
    /// PowerShell, 5.1 or newer.
    PowerShell,
    /// A POSIX shell.
    Sh,
}

/// What a script is to do.
#[derive(Clone, Copy, Debug)]
pub struct Task {
    /// Its language.
    pub language: Language,
    /// Whether it takes away what the other makes.
    pub reverse: bool,
    /// Whether letters that stand in for folders are given again whenever the user signs in.
    pub lasting: bool,
}

/// A link as a script makes it.
struct Link {
    old: String,
    new: String,
    /// What stands in the way gets this name; empty if nothing may be renamed.
    aside: String,
    /// The folder for which the drive's letter can stand in if the drive is gone; empty if none can.
    folder: String,
}

/// The script that makes `bridges`; those that are refused, or are no places of its system, are named in
/// comments. `aside` says whether what stands in the way is renamed.
pub fn script(task: Task, bridges: &[Bridge], aside: bool) -> String {
    let mut links = Vec::new();
    let mut left = Vec::new();
    for bridge in bridges {
        match why_left(task.language, bridge) {
            Some(why) => left.push(format!("{}: {why}", bridge.old)),
            None => links.push(link(bridge, aside)),
        }
    }
    match task.language {
        Language::Cmd => cmd::write(task, &links, &left),
        Language::PowerShell => power_shell::write(task, &links, &left),
        Language::Sh => sh::write(task, &links, &left),
    }
}

fn why_left(language: Language, bridge: &Bridge) -> Option<String> {
    let windows = bridge.old.root.is_windows() && bridge.new.root.is_windows();
    if windows != (language != Language::Sh) {
        return Some("it is no place of this system".to_owned());
    }
    match &bridge.verdict {
        Verdict::Refused(refusal) => Some(refusal.to_string()),
        _ => None,
    }
}

fn link(bridge: &Bridge, aside: bool) -> Link {
    let old = bridge.old.to_string();
    let folder = match (bridge.way, bridge.old.root.is_drive()) {
        (Way::Letter, _) | (_, true) => letter_for(&bridge.old, &bridge.new),
        _ => None,
    };
    Link {
        aside: if aside {
            format!("{old}{SET_ASIDE}")
        } else {
            String::new()
        },
        folder: folder
            .map(|folder| folder_text(&folder))
            .unwrap_or_default(),
        new: bridge.new.to_string(),
        old,
    }
}

/// A folder as an argument in quotes: one that ended with a backslash would take the quote along.
fn folder_text(folder: &Place) -> String {
    let text = folder.to_string();
    if text.ends_with('\\') {
        format!("{text}.")
    } else {
        text
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn bridge(old: &str, new: &str) -> Bridge {
        Bridge {
            old: Place::parse(old).unwrap(),
            new: Place::parse(new).unwrap(),
            way: Way::Link(None),
            verdict: Verdict::Unseen,
            serves: None,
        }
    }

    fn task(language: Language, reverse: bool) -> Task {
        Task {
            language,
            reverse,
            lasting: false,
        }
    }

    #[test]
    fn odd_names_are_quoted_in_each_language() {
        let windows = bridge(r"D:\100% it's!^&(x)", "H:\\it\u{2019}s $a `b");
        let posix = bridge("/old it's $x", "/new \"x\" \\n");
        let cases = [
            (Language::Cmd, &windows, r#"set "old=D:\100%% it's!^&(x)""#),
            (Language::Cmd, &windows, "set \"new=H:\\it\u{2019}s $a `b\""),
            (Language::PowerShell, &windows, r"'D:\100% it''s!^&(x)'"),
            (
                Language::PowerShell,
                &windows,
                "'H:\\it\u{2019}\u{2019}s $a `b'",
            ),
            (Language::Sh, &posix, r#"'/old it'\''s $x' '/new "x" \n'"#),
        ];
        for (language, bridge, expected) in cases {
            let text = script(task(language, false), std::slice::from_ref(bridge), false);
            assert!(text.contains(expected), "{language:?}: {text}");
        }
    }

    #[test]
    fn places_of_another_system_and_refused_ones_are_comments() {
        let refused = Bridge {
            verdict: Verdict::Refused(crate::bridge::Refusal::Loop),
            ..bridge(r"D:\a", r"D:\b")
        };
        let all = [bridge("/old", "/new"), refused];
        for language in [Language::Cmd, Language::PowerShell] {
            let text = script(task(language, false), &all, false);
            assert!(text.contains("/old: it is no place of this system"));
            assert!(text.contains(r"D:\a: a link there would lead into itself"));
            assert!(!text.contains(r"old=D:\a") && !text.contains(r"'D:\a'"));
        }
    }

    #[test]
    fn a_letter_stands_in_where_the_names_below_it_stay() {
        let cases = [
            (
                r"D:\Herbarium",
                r"H:\Collections\Herbarium",
                r"H:\Collections",
            ),
            (r"D:\", r"H:\Old", r"H:\Old"),
            (r"D:\Herbarium", r"H:\Herbarium", r"H:\."),
            (r"D:\Herbarium", r"H:\Sheets", ""),
        ];
        for (old, new, folder) in cases {
            assert_eq!(link(&bridge(old, new), false).folder, folder, "{old}");
        }
    }
}
