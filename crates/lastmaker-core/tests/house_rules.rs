//! What holds for the shape of the code: modules know of each other one way only, files have one
//! subject, functions are short. CONTRIBUTING says why.

#![allow(
    clippy::unwrap_used,
    clippy::disallowed_methods,
    reason = "these are tests"
)]
// The sources are the same on every system, and a test for another one may not see them.
#![cfg(not(windows))]

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

use syn::spanned::Spanned;
use syn::visit::{self, Visit};
use syn::{Attribute, Block, ImplItemFn, Item, ItemFn, ItemUse, TraitItemFn, UseTree};

/// Lines of a file at the most, tests left out.
const LONGEST_FILE: usize = 500;
/// Lines of a command at the most, its arguments included.
const LONGEST_COMMAND: usize = 140;
/// Lines of a function at the most, its head included.
const LONGEST_FUNCTION: usize = 70;
/// Lines of the inside of the function in the middle, if all are put in order.
const MIDDLE_FUNCTION: usize = 8;

/// One source file.
struct Source {
    path: PathBuf,
    /// The path of its module: `["plan", "proof"]`; empty for the crate's root.
    module: Vec<String>,
    items: Vec<Item>,
    /// Lines before the first module of tests.
    lines: usize,
}

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

/// The sources below a crate's `src`, without files that hold only tests.
fn sources(name: &str) -> Vec<Source> {
    let root = crates().join(name).join("src");
    let mut all = Vec::new();
    let mut left = vec![root.clone()];
    while let Some(next) = left.pop() {
        for entry in fs::read_dir(&next).unwrap() {
            let path = entry.unwrap().path();
            let name = path.file_stem().unwrap().to_string_lossy().into_owned();
            if name == "tests" {
                continue;
            } else if path.is_dir() {
                left.push(path);
            } else if path.extension().is_some_and(|end| end == "rs") {
                all.push(source(path, &root));
            }
        }
    }
    all.sort_by(|a, b| a.path.cmp(&b.path));
    assert!(all.len() > 10, "{} has hardly any sources", root.display());
    all
}

fn source(path: PathBuf, root: &Path) -> Source {
    let text = fs::read_to_string(&path).unwrap();
    let file = syn::parse_file(&text).unwrap_or_else(|e| panic!("{}: {e}", path.display()));
    let below = path.strip_prefix(root).unwrap().with_extension("");
    let mut module: Vec<String> = below
        .components()
        .map(|part| part.as_os_str().to_string_lossy().into_owned())
        .collect();
    if module
        .last()
        .is_some_and(|last| matches!(last.as_str(), "mod" | "lib" | "main"))
    {
        module.pop();
    }
    let first_tests = file.items.iter().find(|item| is_test(attributes(item)));
    let lines = match first_tests {
        Some(tests) => tests.span().start().line - 1,
        None => text.lines().count(),
    };
    let items = file.items.into_iter();
    Source {
        path,
        module,
        items: items.filter(|item| !is_test(attributes(item))).collect(),
        lines,
    }
}

fn attributes(item: &Item) -> &[Attribute] {
    match item {
        Item::Mod(one) => &one.attrs,
        Item::Fn(one) => &one.attrs,
        Item::Use(one) => &one.attrs,
        Item::Impl(one) => &one.attrs,
        _ => &[],
    }
}

fn inherent(item: &Item) -> Option<&syn::ItemImpl> {
    match item {
        Item::Impl(one) if one.trait_.is_none() => Some(one),
        _ => None,
    }
}

fn is_test(attributes: &[Attribute]) -> bool {
    attributes.iter().any(|one| {
        let cfg = one.path().is_ident("cfg");
        cfg && matches!(&one.meta, syn::Meta::List(list) if list.tokens.to_string() == "test")
    })
}

/// Every path that a file names, each by its names, and every method that it calls.
#[derive(Default)]
struct Paths {
    named: Vec<Vec<String>>,
    called: BTreeSet<String>,
}

impl<'a> Visit<'a> for Paths {
    fn visit_item_use(&mut self, item: &'a ItemUse) {
        let mut all = Vec::new();
        spread(&item.tree, &mut Vec::new(), &mut all);
        self.named.extend(all);
    }

    fn visit_expr_method_call(&mut self, call: &'a syn::ExprMethodCall) {
        self.called.insert(call.method.to_string());
        visit::visit_expr_method_call(self, call);
    }

    fn visit_path(&mut self, path: &'a syn::Path) {
        let names = path.segments.iter().map(|one| one.ident.to_string());
        self.named.push(names.collect());
        visit::visit_path(self, path);
    }
}

fn spread(tree: &UseTree, before: &mut Vec<String>, all: &mut Vec<Vec<String>>) {
    match tree {
        UseTree::Path(path) => {
            before.push(path.ident.to_string());
            spread(&path.tree, before, all);
            before.pop();
        }
        UseTree::Group(group) => {
            for one in &group.items {
                spread(one, before, all);
            }
        }
        UseTree::Name(name) => all.push([&before[..], &[name.ident.to_string()]].concat()),
        UseTree::Rename(name) => all.push([&before[..], &[name.ident.to_string()]].concat()),
        UseTree::Glob(_) => all.push(before.clone()),
    }
}

/// The modules of a crate, and what each passes on from those in it: by the module's path and
/// the name that is passed on, the path of the module that it comes from.
struct Crate {
    modules: BTreeSet<Vec<String>>,
    passed_on: BTreeMap<(Vec<String>, String), Vec<String>>,
}

impl Crate {
    fn new(sources: &[Source]) -> Self {
        let modules = sources.iter().map(|source| source.module.clone()).collect();
        let mut known = Self {
            modules,
            passed_on: BTreeMap::new(),
        };
        for source in sources {
            for item in &source.items {
                let Item::Use(item) = item else { continue };
                if matches!(item.vis, syn::Visibility::Inherited) {
                    continue;
                }
                let mut all = Vec::new();
                spread(&item.tree, &mut Vec::new(), &mut all);
                for names in all {
                    let from = [&source.module[..], &names[..names.len() - 1]].concat();
                    if known.modules.contains(&from) {
                        let name = names[names.len() - 1].clone();
                        known.passed_on.insert((source.module.clone(), name), from);
                    }
                }
            }
        }
        known
    }

    /// The module that a path in `module` leads to, if it is one of the crate's.
    fn module_of(&self, module: &[String], names: &[String]) -> Option<Vec<String>> {
        let (mut at, rest) = match names.first()?.as_str() {
            "crate" => (Vec::new(), &names[1..]),
            "super" => {
                let up = names.iter().take_while(|name| *name == "super").count();
                (
                    module[..module.len().checked_sub(up)?].to_vec(),
                    &names[up..],
                )
            }
            "self" => (module.to_vec(), &names[1..]),
            // A path that begins with a module below this one.
            first => {
                let below = [module, &[first.to_owned()]].concat();
                if !self.modules.contains(&below) {
                    return None;
                }
                (module.to_vec(), names)
            }
        };
        for name in rest {
            let below = [&at[..], std::slice::from_ref(name)].concat();
            if self.modules.contains(&below) {
                at = below;
            } else {
                while let Some(from) = self.passed_on.get(&(at.clone(), name.clone())) {
                    at.clone_from(from);
                }
                break;
            }
        }
        Some(at)
    }

    /// Where the methods are that a type has from another file than its own, by the method's name. Who calls
    /// one needs that file, although no path says so.
    fn methods(&self, sources: &[Source]) -> BTreeMap<String, Vec<String>> {
        let mut homes: BTreeMap<String, BTreeSet<&[String]>> = BTreeMap::new();
        for source in sources {
            for item in &source.items {
                let name = match item {
                    Item::Struct(one) => &one.ident,
                    Item::Enum(one) => &one.ident,
                    _ => continue,
                };
                homes
                    .entry(name.to_string())
                    .or_default()
                    .insert(&source.module);
            }
        }
        let mut found: BTreeMap<String, BTreeSet<&[String]>> = BTreeMap::new();
        for source in sources {
            for one in source.items.iter().filter_map(inherent) {
                let name = match &*one.self_ty {
                    syn::Type::Path(path) => path.path.segments.last().map(|last| &last.ident),
                    _ => None,
                };
                let is_home = name.is_none_or(|name| {
                    let homes = homes.get(&name.to_string());
                    homes.is_none_or(|homes| homes.contains(&source.module[..]))
                });
                for item in &one.items {
                    let syn::ImplItem::Fn(method) = item else {
                        continue;
                    };
                    // One that is at home too cannot be told from the other by its name.
                    let at: &[String] = if is_home { &[] } else { &source.module };
                    found
                        .entry(method.sig.ident.to_string())
                        .or_default()
                        .insert(at);
                }
            }
        }
        let alone = found.into_iter().filter_map(|(name, at)| {
            let mut at = at.into_iter();
            let first = at.next().filter(|first| !first.is_empty())?;
            at.next().is_none().then(|| (name, first.to_vec()))
        });
        alone.collect()
    }

    /// For every folder, which of the modules in it name which others.
    fn arrows(
        &self,
        sources: &[Source],
    ) -> BTreeMap<Vec<String>, BTreeMap<String, BTreeSet<String>>> {
        let mut folders: BTreeMap<_, BTreeMap<_, BTreeSet<_>>> = BTreeMap::new();
        let methods = self.methods(sources);
        for source in sources {
            let mut paths = Paths::default();
            for item in &source.items {
                paths.visit_item(item);
            }
            let named = paths.named.iter();
            let named = named.filter_map(|names| self.module_of(&source.module, names));
            let called = paths
                .called
                .iter()
                .filter_map(|name| methods.get(name).cloned());
            for to in named.chain(called) {
                let from = &source.module;
                let shared = from.iter().zip(&to).take_while(|(a, b)| a == b).count();
                // A module and what is in it know of each other; only siblings are compared.
                if let (Some(a), Some(b)) = (from.get(shared), to.get(shared)) {
                    let folder = folders.entry(from[..shared].to_vec()).or_default();
                    folder.entry(a.clone()).or_default().insert(b.clone());
                }
            }
        }
        folders
    }
}

/// A way from one module over others back to it, if there is one.
fn circle(arrows: &BTreeMap<String, BTreeSet<String>>) -> Option<Vec<String>> {
    fn follow(
        at: &str,
        arrows: &BTreeMap<String, BTreeSet<String>>,
        way: &mut Vec<String>,
        done: &mut BTreeSet<String>,
    ) -> bool {
        if let Some(first) = way.iter().position(|one| one == at) {
            way.drain(..first);
            way.push(at.to_owned());
            return true;
        }
        if !done.insert(at.to_owned()) {
            return false;
        }
        way.push(at.to_owned());
        for next in arrows.get(at).into_iter().flatten() {
            if follow(next, arrows, way, done) {
                return true;
            }
        }
        way.pop();
        false
    }
    let mut done = BTreeSet::new();
    arrows.keys().find_map(|start| {
        let mut way = Vec::new();
        follow(start, arrows, &mut way, &mut done).then_some(way)
    })
}

#[test]
fn modules_know_of_each_other_one_way_only() {
    for name in ["lastmaker-core", "lastmaker"] {
        let sources = sources(name);
        let known = Crate::new(&sources);
        let arrows = known.arrows(&sources);
        let number: usize = arrows
            .values()
            .flat_map(BTreeMap::values)
            .map(BTreeSet::len)
            .sum();
        assert!(number > 15, "{name}: only {number} arrows were found");
        let circles = arrows.iter().filter_map(|(folder, arrows)| {
            let way = circle(arrows)?.join(" → ");
            Some(format!("{name}/src/{}: {way}", folder.join("/")))
        });
        let circles: Vec<String> = circles.collect();
        assert!(circles.is_empty(), "{}", circles.join("\n"));
    }
}

/// The rows of the table of modules in the description of the architecture, each by the modules that it names.
fn rows_of_modules() -> Vec<Vec<String>> {
    let text = fs::read_to_string(crates().join("../docs/architecture.md")).unwrap();
    let rows = text.lines().filter_map(|line| line.strip_prefix("| `"));
    let names = |row: &str| {
        let cell = row.split('|').next().unwrap_or_default();
        let names = cell
            .split(',')
            .map(|one| one.trim_matches([' ', '`', '/']).to_owned());
        names.collect()
    };
    rows.map(names).collect()
}

#[test]
fn modules_know_only_those_above_them_in_the_table() {
    let sources = sources("lastmaker-core");
    let known = Crate::new(&sources);
    let rows = rows_of_modules();
    let row = |name: &str| {
        rows.iter()
            .position(|row| row.iter().any(|one| one == name))
    };
    let mut wrong = Vec::new();
    let top = sources.iter().filter_map(|source| source.module.first());
    for name in top.collect::<BTreeSet<_>>() {
        if row(name).is_none() {
            wrong.push(format!(
                "{name} is not in the table of docs/architecture.md"
            ));
        }
    }
    for (from, to) in &known.arrows(&sources)[&Vec::new()] {
        let below = to.iter().filter(|to| row(from) <= row(to) && from != *to);
        wrong.extend(below.map(|to| format!("{from} → {to}")));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_circle_is_found() {
    let arrows = |pairs: &[(&str, &str)]| {
        let mut all: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
        for (from, to) in pairs {
            all.entry((*from).to_owned())
                .or_default()
                .insert((*to).to_owned());
        }
        all
    };
    assert_eq!(circle(&arrows(&[("a", "b"), ("a", "c"), ("c", "b")])), None);
    let found = circle(&arrows(&[("a", "b"), ("b", "c"), ("c", "d"), ("d", "b")]));
    assert_eq!(found.unwrap().join(" "), "b c d b");
}

#[test]
fn files_have_one_subject() {
    let all = ["lastmaker-core", "lastmaker"]
        .into_iter()
        .flat_map(sources);
    let long: Vec<String> = all
        .filter(|source| source.lines > LONGEST_FILE)
        .map(|source| format!("{}: {} lines", source.path.display(), source.lines))
        .collect();
    assert!(long.is_empty(), "{}", long.join("\n"));
}

#[test]
fn a_command_is_its_arguments_one_call_and_an_exit_code() {
    let runs = |source: &Source| {
        let mut items = source.items.iter();
        items.any(|item| matches!(item, Item::Fn(one) if one.sig.ident == "run"))
    };
    let all = sources("lastmaker").into_iter();
    let commands: Vec<Source> = all
        .filter(|source| source.module.first().is_some_and(|top| top == "commands"))
        .filter(runs)
        .collect();
    assert!(commands.len() > 10, "only {} commands", commands.len());
    for command in commands {
        let (name, lines) = (command.path.display(), command.lines);
        assert!(lines <= LONGEST_COMMAND, "{name}: {lines} lines");
    }
}

/// The lengths of all functions of a file: of the whole, and of its inside.
#[derive(Default)]
struct Functions(Vec<(String, usize, usize)>);

impl Functions {
    fn add(&mut self, name: &syn::Ident, whole: proc_macro2::Span, block: &Block) {
        let lines = |span: proc_macro2::Span| span.end().line - span.start().line + 1;
        let inside = lines(block.span()).saturating_sub(2);
        self.0.push((name.to_string(), lines(whole), inside));
    }
}

impl<'a> Visit<'a> for Functions {
    fn visit_item_fn(&mut self, item: &'a ItemFn) {
        let head = item.sig.span().join(item.block.span()).unwrap();
        self.add(&item.sig.ident, head, &item.block);
        visit::visit_item_fn(self, item);
    }

    fn visit_impl_item_fn(&mut self, item: &'a ImplItemFn) {
        let head = item.sig.span().join(item.block.span()).unwrap();
        self.add(&item.sig.ident, head, &item.block);
        visit::visit_impl_item_fn(self, item);
    }

    fn visit_trait_item_fn(&mut self, item: &'a TraitItemFn) {
        if let Some(block) = &item.default {
            self.add(&item.sig.ident, item.span(), block);
        }
        visit::visit_trait_item_fn(self, item);
    }
}

#[test]
fn functions_are_short() {
    let mut insides = Vec::new();
    let mut long = Vec::new();
    for source in ["lastmaker-core", "lastmaker"]
        .into_iter()
        .flat_map(sources)
    {
        let mut functions = Functions::default();
        for item in &source.items {
            functions.visit_item(item);
        }
        for (name, whole, inside) in functions.0 {
            insides.push(inside);
            if whole > LONGEST_FUNCTION {
                long.push(format!(
                    "{}: {name} has {whole} lines",
                    source.path.display()
                ));
            }
        }
    }
    assert!(insides.len() > 1000, "only {} functions", insides.len());
    assert!(long.is_empty(), "{}", long.join("\n"));
    insides.sort_unstable();
    let middle = insides[insides.len() / 2];
    assert!(
        middle <= MIDDLE_FUNCTION,
        "the middle one has {middle} lines"
    );
}
