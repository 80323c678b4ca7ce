//! Each link as it is told.

use std::io::ErrorKind;
use std::path::Path;

use crate::answers::familiar;
use crate::bridge::{Bridge, Existing, Served, Verdict, Way};
use crate::record::{LinkKind, kind_of_link};
use crate::report::{BridgeKind, BridgeLine, BridgeState};

/// What is to be known of a letter.
const LETTER: &str = "the old drive is not there, so its letter stands in for a folder until the user signs out; with \
     --lasting it is given again at each sign-in";

/// The same where it is given again.
const LASTING_LETTER: &str = "the old drive is not there, so its letter stands in for a folder, and is given again at each sign-in";

/// A link that there could be; `lasting` says that letters are given again at each sign-in.
pub(super) fn of_bridge(bridge: &Bridge, lasting: bool) -> BridgeLine {
    let mut line = BridgeLine {
        references: bridge.serves.map(|serves| serves.references),
        files: bridge.serves.map(|serves| serves.files),
        ..line(
            &bridge.old.to_string(),
            bridge.new.to_string(),
            match bridge.way {
                Way::Link(None) => BridgeKind::Link,
                Way::Link(Some(kind)) => kind_told(kind),
                Way::Letter => BridgeKind::Letter,
            },
            BridgeState::Possible,
        )
    };
    let why = |line: &mut BridgeLine, why: &str| line.why = Some(why.to_owned());
    match (&bridge.verdict, bridge.way) {
        (Verdict::Possible(works), _) => {
            line.folders = works.folders.iter().map(|path| familiar(path)).collect();
            line.set_aside = works.aside.as_deref().map(familiar);
            if bridge.way == Way::Letter {
                why(&mut line, if lasting { LASTING_LETTER } else { LETTER });
            }
        }
        (Verdict::Stands, _) => line.state = BridgeState::Stands,
        (Verdict::Unseen, Way::Letter) => {
            line.state = BridgeState::Unseen;
            why(&mut line, LETTER);
        }
        (Verdict::Unseen, _) => {
            line.state = BridgeState::Unseen;
            why(
                &mut line,
                "one of the two is not to be seen from here; a script looks where it is run",
            );
        }
        (Verdict::Elsewhere, _) => {
            line.state = BridgeState::Elsewhere;
            why(
                &mut line,
                "these are another machine's places; a script makes it there",
            );
        }
        (Verdict::Refused(refusal), _) => {
            line.state = BridgeState::Refused;
            line.reason = Some(refusal.name());
            line.why = Some(refusal.to_string());
        }
    }
    line
}

/// A link that stands.
pub(super) fn of_existing(link: &Existing, serves: Option<Served>) -> BridgeLine {
    let state = match (link.fault, serves) {
        (Some(ErrorKind::NotFound), _) => BridgeState::Broken,
        (Some(_), _) => BridgeState::Blocked,
        (None, None) => BridgeState::Stands,
        (None, Some(Served { references: 0, .. })) => BridgeState::Needless,
        (None, Some(_)) => BridgeState::Needed,
    };
    let kind = kind_of_link(&link.path).unwrap_or(LinkKind::Symbolic);
    BridgeLine {
        references: serves.map(|serves| serves.references),
        files: serves.map(|serves| serves.files),
        why: match link.fault {
            None => None,
            Some(ErrorKind::NotFound) => Some("what it leads to is not there".to_owned()),
            Some(fault) => Some(format!("it cannot be followed: {fault}")),
        },
        ..line(
            &link.old.to_string(),
            familiar(&link.target),
            kind_told(kind),
            state,
        )
    }
}

/// A link that stands and is not chosen any more.
pub(super) fn unchosen(link: &Existing) -> BridgeLine {
    BridgeLine {
        why: Some("it is not chosen any more, and would be taken away".to_owned()),
        ..of_existing(link, None)
    }
}

/// A link of which nothing else is known.
pub(super) fn of_path(
    path: &Path,
    target: &Path,
    kind: LinkKind,
    state: BridgeState,
) -> BridgeLine {
    line(&familiar(path), familiar(target), kind_told(kind), state)
}

pub(super) fn line(old: &str, new: String, kind: BridgeKind, state: BridgeState) -> BridgeLine {
    BridgeLine {
        old: old.to_owned(),
        new,
        kind,
        state,
        reason: None,
        why: None,
        references: None,
        files: None,
        folders: Vec::new(),
        set_aside: None,
    }
}

fn kind_told(kind: LinkKind) -> BridgeKind {
    match kind {
        LinkKind::Symbolic | LinkKind::Folder => BridgeKind::SymbolicLink,
        LinkKind::Junction => BridgeKind::Junction,
    }
}
