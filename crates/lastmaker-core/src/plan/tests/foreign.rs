//! What is written like a place of this machine and is none: the inside of a container, the paths of a web
//! site's addresses, patterns that count from a folder. By the compose specification, the references of image
//! builds, pods and web servers, and gitignore(5).

use super::*;

#[test]
fn what_is_inside_of_a_container_stays() {
    let cases = [
        (
            "docker-compose.yml",
            "services:\n  a:\n    working_dir: /srv/herb\n    volumes:\n      - /srv/herb:/srv/herb:ro\n      - \"/srv/herb/a:/b\"\n    env_file: /srv/herb/e\n    command: [\"/srv/herb/v\"]\n    environment:\n      - A=/srv/herb\n",
            "services:\n  a:\n    working_dir: /srv/herb\n    volumes:\n      - /srv/press:/srv/herb:ro\n      - \"/srv/press/a:/b\"\n    env_file: /srv/press/e\n    command: [\"/srv/herb/v\"]\n    environment:\n      - A=/srv/herb\n",
        ),
        (
            "compose.yaml",
            "x-all: &all\n  volumes:\n    - type: bind\n      source: /srv/herb\n      target: /srv/herb\nservices:\n  a:\n    <<: *all\n    build:\n      context: /srv/herb/a\n      args:\n        ROOT: /srv/herb\n",
            "x-all: &all\n  volumes:\n    - type: bind\n      source: /srv/press\n      target: /srv/herb\nservices:\n  a:\n    <<: *all\n    build:\n      context: /srv/press/a\n      args:\n        ROOT: /srv/herb\n",
        ),
        (
            "compose.yaml",
            "services:\n  a:\n    volumes:\n      - D:\\Herb\\a:/srv/herb\n",
            "services:\n  a:\n    volumes:\n      - H:\\Press\\a:/srv/herb\n",
        ),
        (
            "pod.yaml",
            "spec:\n  containers:\n  - volumeMounts:\n    - mountPath: /srv/herb\n  volumes:\n  - hostPath:\n      path: /srv/herb\n",
            "spec:\n  containers:\n  - volumeMounts:\n    - mountPath: /srv/herb\n  volumes:\n  - hostPath:\n      path: /srv/press\n",
        ),
        (
            "Dockerfile",
            "FROM x\n# from /srv/herb\nWORKDIR /srv/herb\nCOPY a /srv/herb/a\nRUN ls \"/srv/herb\" > /srv/herb/l\nCMD [\"/srv/herb/v\"]\n",
            "FROM x\n# from /srv/press\nWORKDIR /srv/herb\nCOPY a /srv/herb/a\nRUN ls \"/srv/herb\" > /srv/herb/l\nCMD [\"/srv/herb/v\"]\n",
        ),
    ];
    check(&cases);
}

#[test]
fn addresses_of_a_site_and_patterns_of_a_folder_stay() {
    let cases = [
        (
            "nginx.conf",
            "server {\n  location /srv/herb/ { alias /srv/herb/a/; }\n  location ~ ^/srv/herb/b { root /srv/herb; }\n  error_page 404 /srv/herb/404.html;\n  access_log /srv/herb/log;\n}\n",
            "server {\n  location /srv/herb/ { alias /srv/press/a/; }\n  location ~ ^/srv/herb/b { root /srv/press; }\n  error_page 404 /srv/herb/404.html;\n  access_log /srv/press/log;\n}\n",
        ),
        (
            "httpd.conf",
            "<Location \"/srv/herb\">\n</Location>\nAlias /srv/herb /srv/herb/a\nProxyPass /srv/herb http://x/\nErrorDocument 404 /srv/herb/e\n<Directory /srv/herb>\n</Directory>\n",
            "<Location \"/srv/herb\">\n</Location>\nAlias /srv/herb /srv/press/a\nProxyPass /srv/herb http://x/\nErrorDocument 404 /srv/herb/e\n<Directory /srv/press>\n</Directory>\n",
        ),
        (
            ".gitignore",
            "# as /srv/herb\n/srv/herb/cache\n!/srv/herb/cache/a\n",
            "# as /srv/press\n/srv/herb/cache\n!/srv/herb/cache/a\n",
        ),
        (
            "CODEOWNERS",
            "# kept\n/srv/herb/ @linda\n",
            "# kept\n/srv/herb/ @linda\n",
        ),
    ];
    check(&cases);
}

/// Rewrites each document, and holds that whatever stays says why.
fn check(cases: &[(&str, &str, &str)]) {
    let moves = sheet(&["/srv/herb=/srv/press", r"D:\Herb=H:\Press"]);
    for (name, before, after) in cases {
        let plan = planned(before.as_bytes(), name, &moves);
        let got = plan.new.map_or_else(
            || (*before).to_owned(),
            |new| String::from_utf8(new).unwrap(),
        );
        assert_eq!(got, *after, "{name}");
        let all = plan.references.iter();
        let kept: Vec<_> = all.filter(|one| one.standing == Standing::Kept).collect();
        let foreign = kept
            .iter()
            .filter(|one| one.reason == Some(ReasonName::Foreign))
            .count();
        assert_eq!(
            foreign,
            after.matches("/srv/herb").count(),
            "{name}: {before}"
        );
        assert_eq!(foreign, kept.len(), "{name}");
    }
}
