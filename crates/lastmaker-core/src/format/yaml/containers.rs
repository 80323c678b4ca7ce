//! Which values of a description of containers name places inside of them, and which name places of the machine
//! that they run on: the compose specification, and `mountPath` in descriptions of pods.

/// Whose places a value names.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Side {
    /// The machine's.
    Machine,
    /// The container's.
    Container,
    /// First the machine's, then behind a colon the container's; the container's alone without one.
    Both,
}

/// What of a service is inside of its container.
const INSIDE: [&str; 11] = [
    "args",
    "command",
    "entrypoint",
    "environment",
    "healthcheck",
    "labels",
    "post_start",
    "pre_stop",
    "sysctls",
    "tmpfs",
    "working_dir",
];

/// What of a service has a `target` inside of its container.
const WITH_TARGETS: [&str; 4] = ["configs", "secrets", "volumes", "watch"];

/// Whose places a value under `keys` names, outermost first, of which a compose file's begin with `services` or
/// with a name of its own for what services have in common (`x-…`).
pub(super) fn side<'k>(
    keys: impl DoubleEndedIterator<Item = &'k str> + Clone,
    compose: bool,
) -> Side {
    let mut outer = keys.clone();
    let Some(last) = outer.next_back() else {
        return Side::Machine;
    };
    if last == "mountPath" {
        return Side::Container;
    }
    // A service's own name says nothing.
    let named = match keys.clone().next() {
        Some("services") if compose => 2,
        Some(own) if compose && own.starts_with("x-") => 1,
        _ => return Side::Machine,
    };
    let mut has_target = || {
        outer
            .next_back()
            .is_some_and(|key| WITH_TARGETS.contains(&key))
    };
    if keys.skip(named).any(|key| INSIDE.contains(&key)) || (last == "target" && has_target()) {
        return Side::Container;
    }
    match last {
        "volumes" => Side::Both,
        _ => Side::Machine,
    }
}

/// Where the colon is behind the machine's part of a mount (`/srv/x:/data:ro`, `D:\\x:/data`,
/// `${ROOT:-/srv}/x:/data`); none if there is no such part.
pub(super) fn parting(mount: &str) -> Option<usize> {
    let bytes = mount.as_bytes();
    let drive = bytes.first().is_some_and(u8::is_ascii_alphabetic)
        && bytes.get(1) == Some(&b':')
        && matches!(bytes.get(2), Some(b'\\' | b'/'));
    let mut depth = 0_usize;
    let start = if drive { 2 } else { 0 };
    let found = bytes.iter().skip(start).position(|byte| {
        match byte {
            b'{' => depth += 1,
            b'}' => depth = depth.saturating_sub(1),
            _ => {}
        }
        *byte == b':' && depth == 0
    });
    found.map(|at| start + at)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_machine_and_the_container() {
        let cases: [(&str, bool, Side); 17] = [
            ("services.command.env_file", true, Side::Machine),
            ("x-common.working_dir", true, Side::Container),
            (
                "services.a.volumes.deep.a.b.c.d.e.f.working_dir",
                true,
                Side::Container,
            ),
            ("services.a.volumes", true, Side::Both),
            ("x-common.volumes", true, Side::Both),
            ("services.a.volumes.source", true, Side::Machine),
            ("services.a.volumes.target", true, Side::Container),
            ("services.a.develop.watch.target", true, Side::Container),
            ("services.a.build.target", true, Side::Machine),
            ("services.a.build.context", true, Side::Machine),
            ("services.a.build.args.ROOT", true, Side::Container),
            ("services.a.environment.ROOT", true, Side::Container),
            ("services.a.env_file", true, Side::Machine),
            ("services.a.healthcheck.test", true, Side::Container),
            ("volumes.a.driver_opts.device", true, Side::Machine),
            ("services.a.working_dir", false, Side::Machine),
            (
                "spec.containers.volumeMounts.mountPath",
                false,
                Side::Container,
            ),
        ];
        for (way, compose, expected) in cases {
            assert_eq!(side(way.split('.'), compose), expected, "{way}");
        }
    }

    #[test]
    fn where_a_mount_parts() {
        let cases = [
            ("/srv/x:/data:ro", Some(6)),
            ("D:/x:/data", Some(4)),
            ("d:\\x:c:\\data", Some(4)),
            ("${R:-/srv}/x:/data", Some(12)),
            ("./x:/data", Some(3)),
            ("/data", None),
            ("", None),
        ];
        for (mount, expected) in cases {
            assert_eq!(parting(mount), expected, "{mount}");
        }
    }
}
