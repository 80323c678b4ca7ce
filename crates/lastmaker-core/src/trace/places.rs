//! The places that files name, as a tree of their names.

use std::collections::HashMap;

use super::NamedPlace;
use crate::place::{Place, Root, fold};

/// A folder or file that is named, or on the way to one.
pub(super) type Node = usize;

/// The tree of named places. What lies below a node comes after it.
#[derive(Debug, Default)]
pub(super) struct Places {
    pub(super) nodes: Vec<OfNode>,
    roots: HashMap<String, Node>,
    children: HashMap<(Node, String), Node>,
    /// The places, in the order of the files.
    pub(super) all: Vec<Wanted>,
}

/// One node of the tree.
#[derive(Debug)]
pub(super) struct OfNode {
    pub(super) above: Option<Node>,
    /// Its name as it was first written.
    name: String,
    root: Root,
    pub(super) depth: usize,
    /// How many nodes are right below it.
    pub(super) children: usize,
    /// The place that it is, if it is one.
    pub(super) place: Option<usize>,
}

/// One distinct place.
#[derive(Debug)]
pub(super) struct Wanted {
    pub(super) node: Node,
    /// Its names, folded.
    pub(super) names: Vec<String>,
    pub(super) references: usize,
    /// Whether it is where it is said to be, and stays.
    pub(super) stays: bool,
}

impl Places {
    pub(super) fn add(&mut self, named: &NamedPlace, stays: bool) {
        let place = &named.place;
        let root = Place {
            root: place.root.clone(),
            components: Vec::new(),
        };
        let mut at = match self.roots.get(&root.key()) {
            Some(node) => *node,
            None => {
                let node = self.push(None, "", &place.root, 0);
                self.roots.insert(root.key(), node);
                node
            }
        };
        let names: Vec<String> = place.components.iter().map(|name| fold(name)).collect();
        for (name, folded) in place.components.iter().zip(&names) {
            at = match self.children.get(&(at, folded.clone())) {
                Some(node) => *node,
                None => {
                    let node = self.push(Some(at), name, &place.root, self.nodes[at].depth + 1);
                    self.nodes[at].children += 1;
                    self.children.insert((at, folded.clone()), node);
                    node
                }
            };
        }
        if let Some(known) = self.nodes[at].place {
            self.all[known].references += named.references;
            return;
        }
        self.nodes[at].place = Some(self.all.len());
        self.all.push(Wanted {
            node: at,
            names,
            references: named.references,
            stays,
        });
    }

    fn push(&mut self, above: Option<Node>, name: &str, root: &Root, depth: usize) -> Node {
        self.nodes.push(OfNode {
            above,
            name: name.to_owned(),
            root: root.clone(),
            depth,
            children: 0,
            place: None,
        });
        self.nodes.len() - 1
    }

    /// The places that are to be explained.
    pub(super) fn wanted(&self) -> impl Iterator<Item = &Wanted> {
        self.all.iter().filter(|one| !one.stays)
    }

    /// The nodes from a node up to its root.
    pub(super) fn up(&self, node: Node) -> impl Iterator<Item = Node> + '_ {
        std::iter::successors(Some(node), |at| self.nodes[*at].above)
    }

    /// The node above `node` at this depth.
    pub(super) fn at_depth(&self, node: Node, depth: usize) -> Node {
        let mut up = self.up(node);
        up.find(|at| self.nodes[*at].depth == depth).unwrap_or(node)
    }

    /// The place that a node is.
    pub(super) fn place(&self, node: Node) -> Place {
        let mut components: Vec<String> = self
            .up(node)
            .filter(|at| self.nodes[*at].above.is_some())
            .map(|at| self.nodes[at].name.clone())
            .collect();
        components.reverse();
        Place {
            root: self.nodes[node].root.clone(),
            components,
        }
    }
}
