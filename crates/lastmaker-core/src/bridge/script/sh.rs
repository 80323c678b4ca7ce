//! For a POSIX shell.
//!
//! In single quotes every letter stands for itself but the quote (POSIX.1-2017, Shell Command Language, 2.2.2).

use super::{Link, Task};

pub(super) fn write(task: Task, links: &[Link], left: &[String]) -> String {
    let mut text = String::from("#!/bin/sh\n");
    text.push_str(if task.reverse {
        "# Takes links at old places away again; what they lead to is not touched.\n"
    } else {
        "# Makes links at old places. What stands there is left, so it can be run again.\n"
    });
    for why in left {
        text.extend(["# Left out: ", why, "\n"]);
    }
    let (body, name) = if task.reverse {
        (TAKE, "take_old_place")
    } else {
        (MAKE, "make_old_place")
    };
    text.push_str(body);
    for link in links {
        let parts = [&link.old, &link.new, &link.aside].map(|part| quoted(part));
        text.extend([name, " ", &parts.join(" "), "\n"]);
    }
    text.push_str("exit $failed\n");
    text
}

fn quoted(text: &str) -> String {
    format!("'{}'", text.replace('\'', r"'\''"))
}

const MAKE: &str = r#"failed=0
left() {
  printf 'Left: %s %s\n' "$1" "$2" >&2
  failed=1
}
make_old_place() {
  if [ -L "$1" ]; then
    if [ "$(readlink "$1")" = "$2" ]; then
      printf 'The link stands there already: %s\n' "$1"
    else
      left "$1" 'is a link that leads elsewhere'
    fi
    return
  fi
  if [ ! -e "$2" ]; then
    left "$2" 'is not there'
    return
  fi
  if [ -e "$1" ]; then
    if [ -z "$3" ] || [ -e "$3" ] || [ -L "$3" ]; then
      left "$1" 'is something else already'
      return
    fi
    mv -- "$1" "$3" || { failed=1; return; }
  fi
  mkdir -p -- "$(dirname -- "$1")" && ln -s -- "$2" "$1" || { failed=1; return; }
  printf 'Made: %s\n' "$1"
}
"#;

const TAKE: &str = r#"failed=0
take_old_place() {
  if [ ! -L "$1" ] || [ "$(readlink "$1")" != "$2" ]; then
    printf 'Left: %s is not that link\n' "$1"
    return
  fi
  rm -- "$1" || { failed=1; return; }
  if [ -n "$3" ] && { [ -e "$3" ] || [ -L "$3" ]; }; then
    mv -- "$3" "$1" || { failed=1; return; }
  fi
  printf 'Taken away: %s\n' "$1"
}
"#;
