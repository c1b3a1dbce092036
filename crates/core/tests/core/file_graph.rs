//! Which file of a crate imports which: what `use` and paths name is followed through re-exports to the file that declares it.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use syn::visit::Visit;
use syn::{Attribute, Item, ItemMod, ItemUse, UseTree};

/// A module with a file of its own, by its path in the crate.
pub(crate) type Module = Vec<String>;

/// The files of a crate and what they import.
#[derive(Default)]
pub(crate) struct FileGraph {
    files: BTreeMap<Module, FileImports>,
}

/// What a file says of others.
#[derive(Default)]
struct FileImports {
    /// Every path that it names, from the module that it stands in.
    paths: Vec<Vec<String>>,
    /// What its own `use` declarations call something, and where that is.
    names: BTreeMap<String, Vec<String>>,
}

impl FileGraph {
    /// Reads the sources of a crate.
    pub(crate) fn of(sources: &[(std::path::PathBuf, String)], folder: &Path) -> Self {
        let mut graph = Self::default();
        for (path, text) in sources {
            let file = syn::parse_file(text).unwrap();
            let mut reader = Reader { inside: 0, imports: FileImports::default() };
            reader.visit_file(&file);
            graph.files.insert(module_of(path.strip_prefix(folder).unwrap()), reader.imports);
        }
        graph
    }

    /// The files that a file imports.
    fn imported(&self, module: &Module) -> BTreeSet<Module> {
        let found = self.files[module].paths.iter().filter_map(|path| self.declared(module, path, 0));
        found.filter(|found| found != module).collect()
    }

    /// The file that declares what a path names, seen from a module; none if that is not in the crate.
    fn declared(&self, from: &Module, path: &[String], followed: usize) -> Option<Module> {
        let mut rest = path;
        let mut module = match rest.first()?.as_str() {
            "crate" => Module::new(),
            "self" | "super" => from.clone(),
            name if self.files.contains_key(&child(from, name)) => from.clone(),
            _ => return None,
        };
        while let Some(first) = rest.first().filter(|first| matches!(first.as_str(), "crate" | "self" | "super")) {
            if first == "super" {
                module.pop();
            }
            rest = &rest[1..];
        }
        // The modules in here have their folders beside it.
        if rest.len() > 1 && rest[0] == "internal" && module.is_empty() {
            rest = &rest[1..];
        }
        while let Some(name) = rest.first() {
            let below = child(&module, name);
            if self.files.contains_key(&below) {
                module = below;
            } else {
                let named = self.files.get(&module).and_then(|file| file.names.get(name));
                return match named.filter(|_| followed < 10) {
                    Some(named) => self.declared(&module, &[named, &rest[1..]].concat(), followed + 1),
                    None => Some(module),
                };
            }
            rest = &rest[1..];
        }
        Some(module)
    }

    /// Files that import each other in a circle, each by the next; none if there is no such circle.
    pub(crate) fn circle(&self) -> Option<Vec<String>> {
        let imports: BTreeMap<&Module, BTreeSet<Module>> =
            self.files.keys().map(|module| (module, self.imported(module))).collect();
        let mut done = BTreeSet::new();
        self.files.keys().find_map(|module| circle_from(module, &imports, &mut Vec::new(), &mut done))
    }
}

fn circle_from<'g>(
    module: &'g Module,
    imports: &'g BTreeMap<&'g Module, BTreeSet<Module>>,
    above: &mut Vec<&'g Module>,
    done: &mut BTreeSet<&'g Module>,
) -> Option<Vec<String>> {
    if let Some(at) = above.iter().position(|known| *known == module) {
        return Some(above[at..].iter().map(|module| module.join("/")).collect());
    }
    if done.contains(module) {
        return None;
    }
    above.push(module);
    let found = imports[module].iter().find_map(|next| circle_from(next, imports, above, done));
    above.pop();
    done.insert(module);
    found
}

fn child(module: &Module, name: &str) -> Module {
    [module.clone(), vec![name.to_owned()]].concat()
}

/// The module that a file holds, by its path in the sources of a crate.
fn module_of(path: &Path) -> Module {
    let mut parts: Module = path.with_extension("").iter().map(|part| part.to_string_lossy().into_owned()).collect();
    if parts.last().is_some_and(|last| matches!(last.as_str(), "mod" | "lib" | "main")) {
        parts.pop();
    }
    parts
}

/// Collects what a file names.
struct Reader {
    /// How many modules inside the file the reading is in.
    inside: usize,
    imports: FileImports,
}

impl Reader {
    /// Notes a path, from the module of the file. Inside further modules of the file, as many steps up stay in it.
    fn note(&mut self, mut path: Vec<String>) {
        let steps = path.iter().take_while(|part| *part == "super").count();
        if self.inside > 0 && (steps > 0 || path.first().is_some_and(|first| first == "self")) {
            path.drain(..steps.min(self.inside));
        }
        self.imports.paths.push(path);
    }

    fn note_use(&mut self, tree: &UseTree, above: &[String]) {
        let with = |name: &syn::Ident| [above, &[name.to_string()]].concat();
        match tree {
            UseTree::Path(path) => self.note_use(&path.tree, &with(&path.ident)),
            UseTree::Group(group) => group.items.iter().for_each(|tree| self.note_use(tree, above)),
            UseTree::Glob(_) => self.note(above.to_vec()),
            UseTree::Name(name) => {
                let path = if name.ident == "self" { above.to_vec() } else { with(&name.ident) };
                self.name(path.last().cloned().unwrap_or_default(), path);
            }
            UseTree::Rename(rename) => self.name(rename.rename.to_string(), with(&rename.ident)),
        }
    }

    fn name(&mut self, name: String, path: Vec<String>) {
        if self.inside == 0 && path.len() > 1 {
            self.imports.names.insert(name, path.clone());
        }
        self.note(path);
    }
}

fn is_test(attributes: &[Attribute]) -> bool {
    attributes.iter().any(|attribute| {
        attribute.path().is_ident("cfg") && attribute.parse_args::<syn::Path>().is_ok_and(|path| path.is_ident("test"))
    })
}

impl<'a> Visit<'a> for Reader {
    fn visit_item(&mut self, item: &'a Item) {
        let tested = match item {
            Item::Mod(module) => is_test(&module.attrs),
            Item::Use(import) => is_test(&import.attrs),
            Item::Fn(function) => is_test(&function.attrs),
            _ => false,
        };
        if !tested {
            syn::visit::visit_item(self, item);
        }
    }

    fn visit_item_mod(&mut self, module: &'a ItemMod) {
        self.inside += 1;
        syn::visit::visit_item_mod(self, module);
        self.inside -= 1;
    }

    fn visit_item_use(&mut self, import: &'a ItemUse) {
        self.note_use(&import.tree, &[]);
    }

    fn visit_path(&mut self, path: &'a syn::Path) {
        self.note(path.segments.iter().map(|segment| segment.ident.to_string()).collect());
        syn::visit::visit_path(self, path);
    }

    // `pub(in a::b)` names who may see something, and imports nothing.
    fn visit_visibility(&mut self, _: &'a syn::Visibility) {}
}

#[test]
fn a_circle_is_found_through_re_exports() {
    let folder = Path::new("src");
    let file = |name: &str, text: &str| (folder.join(name), text.to_owned());
    let straight = [
        file("lib.rs", "mod one; pub mod two;"),
        file("one.rs", "use crate::two::Thing; pub struct Own;"),
        file("two/mod.rs", "mod inner; pub use inner::Thing;"),
        file("two/inner.rs", "pub struct Thing; mod nested { use super::Thing; }"),
    ];
    assert_eq!(FileGraph::of(&straight, folder).circle(), None);
    let mut round = straight;
    round[3] = file("two/inner.rs", "pub struct Thing(crate::one::Own);");
    assert_eq!(FileGraph::of(&round, folder).circle().unwrap(), ["one", "two/inner"]);
    round[3] = file("two/inner.rs", "pub struct Thing; #[cfg(test)] mod tests { use crate::one::Own; }");
    assert_eq!(FileGraph::of(&round, folder).circle(), None);
}
