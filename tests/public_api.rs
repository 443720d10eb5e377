//! What a game can name, crate by crate: a change of it is seen, and is a line of CHANGELOG.md.
//!
//! It is read from the sources: whatever is `pub` can be reached, which a lint holds (`unreachable_pub`).

use std::{collections::HashSet, fs, path::Path};

use syn::{Attribute, Block, ImplItem, Item, TraitItem, Visibility, parse_quote};

/// The items of a crate, each as one text; what is implemented with the name of the type it is for.
#[derive(Default)]
struct Listing {
    items: Vec<String>,
    implemented: Vec<(String, String)>,
    types: HashSet<String>,
}

fn is_public(visibility: &Visibility) -> bool {
    matches!(visibility, Visibility::Public(_))
}

fn empty() -> Block {
    parse_quote!({})
}

/// What of its attributes a user has to know.
fn strip(attrs: &mut Vec<Attribute>) {
    attrs.retain(|attr| ["non_exhaustive", "cfg", "derive"].iter().any(|known| attr.path().is_ident(known)));
}

/// An item as it is set, in one line.
fn set(item: Item) -> String {
    let text = prettyplease::unparse(&syn::File { shebang: None, attrs: Vec::new(), items: vec![item] });
    text.split_whitespace().collect::<Vec<_>>().join(" ").replace(" {}", "")
}

impl Listing {
    fn folder(&mut self, folder: &Path) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                self.folder(&path);
            } else if path.extension().is_some_and(|extension| extension == "rs") {
                let file = syn::parse_file(&fs::read_to_string(&path).unwrap()).unwrap();
                self.items(file.items);
            }
        }
    }

    fn items(&mut self, items: Vec<Item>) {
        items.into_iter().for_each(|item| self.item(item));
    }

    fn item(&mut self, item: Item) {
        match item {
            Item::Fn(mut of) if is_public(&of.vis) => {
                strip(&mut of.attrs);
                *of.block = empty();
                self.items.push(set(of.into()));
            }
            Item::Struct(mut of) if is_public(&of.vis) => {
                self.types.insert(of.ident.to_string());
                strip(&mut of.attrs);
                // Fields that are nobody's business are not listed.
                if let syn::Fields::Named(fields) = &mut of.fields {
                    let all = std::mem::take(&mut fields.named);
                    fields.named = all.into_iter().filter(|field| is_public(&field.vis)).collect();
                }
                of.fields.iter_mut().for_each(|field| strip(&mut field.attrs));
                self.items.push(set(of.into()));
            }
            Item::Enum(mut of) if is_public(&of.vis) => {
                self.types.insert(of.ident.to_string());
                strip(&mut of.attrs);
                for variant in &mut of.variants {
                    strip(&mut variant.attrs);
                    variant.fields.iter_mut().for_each(|field| strip(&mut field.attrs));
                }
                self.items.push(set(of.into()));
            }
            Item::Trait(mut of) if is_public(&of.vis) => {
                strip(&mut of.attrs);
                for item in &mut of.items {
                    match item {
                        TraitItem::Fn(of) => {
                            strip(&mut of.attrs);
                            of.default = of.default.as_ref().map(|_| empty());
                        }
                        TraitItem::Type(of) => strip(&mut of.attrs),
                        TraitItem::Const(of) => strip(&mut of.attrs),
                        _ => {}
                    }
                }
                self.items.push(set(of.into()));
            }
            Item::Type(mut of) if is_public(&of.vis) => {
                self.types.insert(of.ident.to_string());
                strip(&mut of.attrs);
                self.items.push(set(of.into()));
            }
            Item::Const(mut of) if is_public(&of.vis) => {
                strip(&mut of.attrs);
                of.expr = parse_quote!(..);
                self.items.push(set(of.into()));
            }
            Item::Use(mut of) if is_public(&of.vis) => {
                strip(&mut of.attrs);
                self.items.push(set(of.into()));
            }
            Item::Mod(of) => {
                if let Some((_, items)) = of.content {
                    self.items(items);
                }
            }
            Item::Impl(of) => self.block(of),
            // `payload!` makes what is written in it.
            Item::Macro(of) if of.mac.path.is_ident("payload") => {
                let inner: syn::File = of.mac.parse_body().unwrap();
                self.items(inner.items);
            }
            _ => {}
        }
    }

    fn block(&mut self, mut of: syn::ItemImpl) {
        of.attrs.clear();
        let items = std::mem::take(&mut of.items);
        let head = set(of.clone().into());
        let syn::Type::Path(of_type) = &*of.self_ty else { return };
        let name = of_type.path.segments.last().unwrap().ident.to_string();
        if of.trait_.is_some() {
            return self.implemented.push((name, head));
        }
        for item in items {
            let mut of = of.clone();
            let kept = match item {
                ImplItem::Fn(mut item) if is_public(&item.vis) => {
                    strip(&mut item.attrs);
                    item.block = empty();
                    ImplItem::Fn(item)
                }
                ImplItem::Const(mut item) if is_public(&item.vis) => {
                    strip(&mut item.attrs);
                    item.expr = parse_quote!(..);
                    ImplItem::Const(item)
                }
                _ => continue,
            };
            of.items = vec![kept];
            self.implemented.push((name.clone(), set(of.into())));
        }
    }
}

#[test]
fn what_a_game_can_name_is_as_listed() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    for name in ["", "core", "files", "gltf", "link", "live", "lsp", "script", "store", "testing", "view"] {
        let folder =
            if name.is_empty() { root.join("src") } else { root.join("crates").join(name).join("src") };
        let mut listing = Listing::default();
        listing.folder(&folder);
        let Listing { mut items, implemented, types } = listing;
        items.extend(implemented.into_iter().filter(|(name, _)| types.contains(name)).map(|(_, text)| text));
        items.sort();
        items.dedup();
        assert!(items.len() > 1, "nothing is public in {}", folder.display());
        insta::assert_snapshot!(if name.is_empty() { "root" } else { name }, items.join("\n"));
    }
}
