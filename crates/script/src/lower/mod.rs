//! From the tree to the model: literals are read, words become names. What the tree could not make sense of is
//! left out here; its fault is reported already.

mod expr;
mod literal;
mod playtest;
mod statement;
mod texts;

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{
        Atom, Bind, Constant, Count, Crossing, Declaration, During, Expr, ExprKind, Field, File, Given,
        Items, Kit, Name, Object, ParamType, ParamTypeRef, Parameter, Part, Path, Routine, SceneFile, Spot,
        TypeRef, Use, Var, Wire,
    },
    source::Span,
    suggest::nearest,
    syntax::{Node, SyntaxKind as K, Token},
};
use stoicheon_core::Type;

/// Reads the tree of the file of that number.
pub(crate) fn lower(tree: &Node, number: u32, diagnostics: &mut Vec<Diagnostic>) -> File {
    lower_items(tree.children(), number, 0, diagnostics)
}

/// Reads some items of the file of that number, whose tree begins that far into it.
pub(crate) fn lower_items(
    nodes: impl Iterator<Item = Node>,
    number: u32,
    begins: u32,
    diagnostics: &mut Vec<Diagnostic>,
) -> File {
    let mut lower = Lower { file: number, begins: begins.into(), shortest: None, diagnostics };
    let mut file = File::default();
    for node in nodes {
        match node.kind() {
            K::Scene => file.scene = lower.words(&node).nth(1),
            K::Project => file.project = lower.words(&node).nth(1),
            K::SceneFile => file.scenes.extend(lower.scene_file(&node)),
            K::Ticks => file.ticks = lower.number_of(&node),
            K::Players => file.players = lower.number_of(&node),
            K::Seeds => file.seeds.extend(lower.seeds(&node)),
            K::Shared => file.shared.extend(lower.text(&node)),
            K::PlacesFile => file.places.extend(lower.text(&node)),
            K::CatalogueFile => file.catalogues.extend(lower.text(&node)),
            K::Constant if child(&node, K::Type).is_none() => file.given.extend(lower.given(&node)),
            K::Kit => file.kits.extend(lower.kit(&node)),
            K::Playtest => {
                // What players do takes whole ticks anyway.
                let shortest = lower.shortest;
                file.playtests.extend(lower.playtest(&node));
                lower.shortest = shortest;
            }
            _ => lower.item(&node, &mut file.items),
        }
    }
    file.shortest = lower.shortest;
    file
}

/// The value of a tree that is one, and that begins that far into the file.
pub(crate) fn lower_value(
    tree: &Node,
    file: u32,
    begins: usize,
    diagnostics: &mut Vec<Diagnostic>,
) -> Option<Expr> {
    let begins = u32::try_from(begins).unwrap_or(u32::MAX).into();
    let mut lower = Lower { file, begins, shortest: None, diagnostics };
    lower.first_expr(tree)
}

struct Lower<'d> {
    file: u32,
    /// Where the text of the tree begins in the file.
    begins: rowan::TextSize,
    /// The shortest span of time so far, in seconds, and where it stands.
    shortest: Option<(f64, Span)>,
    diagnostics: &'d mut Vec<Diagnostic>,
}

fn tokens(node: &Node) -> impl Iterator<Item = Token> {
    node.children_with_tokens().filter_map(rowan::NodeOrToken::into_token).filter(|t| !t.kind().is_trivia())
}

fn child(node: &Node, kind: K) -> Option<Node> {
    node.children().find(|child| child.kind() == kind)
}

fn children(node: &Node, kind: K) -> impl Iterator<Item = Node> {
    node.children().filter(move |child| child.kind() == kind)
}

fn is_expr(kind: K) -> bool {
    matches!(
        kind,
        K::Path
            | K::Literal
            | K::Vector
            | K::Paren
            | K::Unary
            | K::Binary
            | K::Of
            | K::About
            | K::Call
            | K::Count
            | K::Quantifier
            | K::Nearest
            | K::Last
    )
}

fn exprs(node: &Node) -> impl Iterator<Item = Node> {
    node.children().filter(|child| is_expr(child.kind()))
}

/// Whether that word stands directly in a node.
fn has_word(node: &Node, word: &str) -> bool {
    tokens(node).any(|token| token.kind() == K::Word && token.text() == word)
}

/// Names and places.
impl Lower<'_> {
    fn span(&self, range: rowan::TextRange) -> Span {
        let range = range + self.begins;
        Span { file: self.file, start: range.start().into(), end: range.end().into() }
    }

    /// Where a node stands. The parser keeps blanks out of the nodes that they surround.
    fn range(&self, node: &Node) -> Span {
        self.span(node.text_range())
    }

    fn name(&self, token: &Token) -> Name {
        Name::new(token.text(), self.span(token.text_range()))
    }

    /// The words that stand directly in a node, its keywords among them.
    fn words(&self, node: &Node) -> std::vec::IntoIter<Name> {
        let words = tokens(node).filter(|token| token.kind() == K::Word).map(|token| self.name(&token));
        words.collect::<Vec<_>>().into_iter()
    }

    /// The word after a keyword.
    fn after(&self, node: &Node, keyword: &str) -> Option<Name> {
        self.words(node).skip_while(|word| word.text != keyword).nth(1)
    }

    /// The text that stands directly in a node.
    fn text(&mut self, node: &Node) -> Option<Name> {
        let token = tokens(node).find(|token| token.kind() == K::Text)?;
        Some(Name::new(self.unquoted(&token)?, self.span(token.text_range())))
    }

    fn path_of(&self, node: &Node) -> Option<Path> {
        let names: Vec<_> = self.words(node).collect();
        (!names.is_empty()).then_some(Path(names))
    }

    fn path(&self, node: &Node) -> Option<Path> {
        child(node, K::Path).and_then(|path| self.path_of(&path))
    }

    fn tags(&self, node: &Node) -> Vec<Name> {
        children(node, K::Tags).flat_map(|tags| self.words(&tags).skip(1).collect::<Vec<_>>()).collect()
    }

    fn bad_literal(&mut self, span: Span, message: &str) {
        self.diagnostics.push(Diagnostic::error(Code::BadLiteral, message).at(span, "not this"));
    }
}

/// Items.
impl Lower<'_> {
    fn item(&mut self, node: &Node, to: &mut Items) {
        match node.kind() {
            K::Constant => to.givens.extend(self.constant(node)),
            K::Var => to.vars.extend(self.var(node)),
            K::Signal => to.signals.extend(self.declaration(node)),
            K::Effect => to.effects.extend(self.declaration(node)),
            K::Object => to.objects.extend(self.object(node)),
            K::Lone => to.objects.extend(self.lone(node)),
            K::Manager => to.managers.extend(self.object(node)),
            K::Mould => to.moulds.extend(self.object(node)),
            K::Spot => to.spots.extend(self.spot(node)),
            K::Wire => to.wires.extend(self.wire(node)),
            K::Bind => to.binds.extend(self.bind(node)),
            K::Rule => to.rules.extend(self.first_expr(node)),
            K::Routine => to.routines.extend(self.routine(node)),
            K::Use => to.uses.extend(self.use_item(node)),
            _ => {}
        }
    }

    fn constant(&mut self, node: &Node) -> Option<Constant> {
        let about = child(node, K::AboutText).and_then(|about| self.text(&about));
        let Given { name, value } = self.given(node)?;
        Some(Constant { name, ty: self.type_in(node)?, value, about })
    }

    /// `given stone_reach = 6`
    fn given(&mut self, node: &Node) -> Option<Given> {
        Some(Given { name: self.words(node).nth(1)?, value: self.first_expr(node)? })
    }

    fn scene_file(&mut self, node: &Node) -> Option<SceneFile> {
        let left = self.after(node, "left");
        Some(SceneFile { file: self.text(node)?, left })
    }

    fn number_of(&mut self, node: &Node) -> Option<Count> {
        Some(Count { span: self.range(node), count: self.count(node)? })
    }

    /// Where random numbers begin.
    fn seeds(&mut self, node: &Node) -> Vec<u64> {
        let numbers = tokens(node).filter(|token| token.kind() == K::Number);
        let mut seeds = Vec::new();
        for token in numbers.collect::<Vec<_>>() {
            match token.text().parse() {
                Ok(seed) => seeds.push(seed),
                Err(_) => {
                    self.bad_literal(self.span(token.text_range()), "expected a whole number from 0 up");
                }
            }
        }
        seeds
    }

    fn var(&mut self, node: &Node) -> Option<Var> {
        let name = self.words(node).nth(1)?;
        let ty = self.type_in(node)?;
        let per_player = child(node, K::PerPlayer).is_some();
        let remember = child(node, K::Flag).is_some();
        // One without a value is known all the same: what speaks of it is not at fault.
        let bad = Expr { span: self.range(node), kind: ExprKind::Bad };
        let first = self.first_expr(node).unwrap_or(bad);
        Some(Var { name, ty, first, per_player, remember })
    }

    /// The type that stands in a node. One that does not exist counts as a number, so that one fault is reported and
    /// not two.
    fn type_in(&mut self, node: &Node) -> Option<TypeRef> {
        let ParamTypeRef { span, ty } = self.any_type_in(node, false)?;
        let ty = if let ParamType::Value(ty) = ty { ty } else { Type::Number };
        Some(TypeRef { span, ty })
    }

    /// The same where the types of names may stand, as for parameters of kits.
    fn any_type_in(&mut self, node: &Node, of_kit: bool) -> Option<ParamTypeRef> {
        let node = child(node, K::Type)?;
        let span = self.range(&node);
        let mut words = self.words(&node);
        let first = words.next()?;
        if first.text == "one" {
            let words: Vec<_> = words.skip(1).map(|word| word.text).collect();
            return Some(ParamTypeRef { span, ty: ParamType::Value(Type::one_of(words)) });
        }
        let name = ParamType::NAMES.into_iter().find(|name| name.word() == first.text);
        if let (Some(ty), true) = (name.clone(), of_kit) {
            return Some(ParamTypeRef { span, ty });
        }
        let found = Type::PLAIN.into_iter().find(|ty| ty.word() == first.text);
        // As other languages call them.
        let meant = match first.text.as_str() {
            "bool" => Some(Type::Bool),
            "string" | "str" | "String" => Some(Type::Text),
            "int" | "integer" => Some(Type::Whole),
            "float" | "double" | "real" => Some(Type::Number),
            _ => None,
        };
        if found.is_none() {
            let mut known: Vec<_> = Type::PLAIN.iter().map(Type::word).collect();
            if of_kit {
                known.extend(ParamType::NAMES.iter().map(ParamType::word));
            }
            let message = format!("there is no type `{}`", first.text);
            let near = meant.as_ref().map(Type::word).or_else(|| nearest(&first.text, known.iter().copied()));
            let help = match near {
                _ if name.is_some() => format!("`{}` is a type for parameters of kits only", first.text),
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("the types are {} and one of (…)", known.join(", ")),
            };
            self.diagnostics.push(
                Diagnostic::error(Code::UnknownType, message).at(first.span, "expected a type").help(help),
            );
            // What is most likely meant, so that values of it are not wrong, too.
            let near = Type::PLAIN.into_iter().find(|ty| near == Some(ty.word()));
            return Some(ParamTypeRef { span, ty: ParamType::Value(near.unwrap_or(Type::Number)) });
        }
        Some(ParamTypeRef { span, ty: ParamType::Value(found.unwrap_or(Type::Number)) })
    }

    /// The parameters of a kit.
    fn parameters(&mut self, node: &Node) -> Vec<Parameter> {
        let mut all = Vec::new();
        for field in child(node, K::Fields).iter().flat_map(|fields| children(fields, K::Field)) {
            if let (Some(name), Some(ty)) = (self.words(&field).next(), self.any_type_in(&field, true)) {
                all.push(Parameter { name, ty, default: self.first_expr(&field) });
            }
        }
        all
    }

    fn fields(&mut self, node: &Node) -> Vec<Field> {
        let mut all = Vec::new();
        for field in child(node, K::Fields).iter().flat_map(|fields| children(fields, K::Field)) {
            if let (Some(name), Some(ty)) = (self.words(&field).next(), self.type_in(&field)) {
                all.push(Field { name, ty });
            }
        }
        all
    }

    fn declaration(&mut self, node: &Node) -> Option<Declaration> {
        let name = self.words(node).nth(1)?;
        let crosses = child(node, K::Crosses).and_then(|crosses| {
            let by = self.words(&crosses).skip_while(|word| word.text != "by").skip(1);
            let by = by.filter(|word| word.text != "or").collect();
            Some(Crossing { to: self.after(&crosses, "to")?, by })
        });
        let by_game = |word: &str| children(node, K::ByGame).any(|clause| has_word(&clause, word));
        let (sent_by_game, heard_by_game) = (by_game("sent"), by_game("heard"));
        Some(Declaration { name, fields: self.fields(node), crosses, sent_by_game, heard_by_game })
    }

    fn object(&mut self, node: &Node) -> Option<Object> {
        let name = self.words(node).nth(1)?;
        let flag = |word: &str| children(node, K::Flag).any(|flag| has_word(&flag, word));
        let mut object = Object {
            at: self.clause(node, K::At),
            facing: self.clause(node, K::Facing),
            tags: self.tags(node),
            of: child(node, K::Parent).and_then(|of| self.path(&of)),
            disabled: flag("disabled"),
            body: flag("body"),
            remember: flag("remember"),
            ..Object::new(name, self.range(node))
        };
        for member in node.children() {
            match member.kind() {
                K::Part => object.parts.extend(self.part(&member)),
                K::Var => object.vars.extend(self.var(&member)),
                K::Signal => object.signals.extend(self.declaration(&member)),
                K::Spot => object.spots.extend(self.spot(&member)),
                K::Wire => object.wires.extend(self.wire(&member)),
                _ => {}
            }
        }
        Some(object)
    }

    fn clause(&mut self, node: &Node, kind: K) -> Option<Expr> {
        child(node, kind).and_then(|clause| self.first_expr(&clause))
    }

    fn spot(&mut self, node: &Node) -> Option<Spot> {
        let name = self.words(node).nth(1)?;
        Some(Spot { name, at: self.clause(node, K::At)?, facing: self.clause(node, K::Facing) })
    }

    /// `timer fuse after 3s`: an object called `fuse` that is nothing but a timer.
    fn lone(&mut self, node: &Node) -> Option<Object> {
        let mut part = self.part(node)?;
        if part.settings.is_empty() {
            return None;
        }
        let Atom::Word(name) = part.settings.remove(0) else { return None };
        Some(Object { parts: vec![part], ..Object::new(name, self.range(node)) })
    }

    fn part(&mut self, node: &Node) -> Option<Part> {
        let mut settings = self.atoms(node);
        if settings.is_empty() {
            return None;
        }
        let Atom::Word(kind) = settings.remove(0) else { return None };
        Some(Part { kind, settings })
    }

    /// The words and values that stand directly in a node.
    fn atoms(&mut self, node: &Node) -> Vec<Atom> {
        let mut atoms = Vec::new();
        for element in node.children_with_tokens() {
            match element {
                rowan::NodeOrToken::Token(token) if token.kind() == K::Word => {
                    atoms.push(Atom::Word(self.name(&token)));
                }
                rowan::NodeOrToken::Node(node) if node.kind() == K::Group => {
                    let group = self.atoms(&node);
                    atoms.push(Atom::Group(group));
                }
                rowan::NodeOrToken::Node(node) if is_expr(node.kind()) => {
                    atoms.push(Atom::Value(self.expr(&node)));
                }
                _ => {}
            }
        }
        atoms
    }

    pub(super) fn wire(&mut self, node: &Node) -> Option<Wire> {
        let is_tag = |word: &Name| word.text != "by" && word.text != "or";
        let by = children(node, K::Filter).flat_map(|f| self.words(&f).filter(is_tag).collect::<Vec<_>>());
        let by = by.collect();
        let cooldown = child(node, K::Cooldown);
        let once = child(node, K::Once).map(|_| 1);
        Some(Wire {
            span: self.range(node),
            on: self.path(node)?,
            every: has_word(node, "every"),
            pattern: self.args(node),
            by,
            when: self.clause(node, K::Guard),
            order: child(node, K::Order).and_then(|order| self.whole(&order)).unwrap_or(0),
            cooldown: cooldown.as_ref().and_then(|cooldown| self.duration(cooldown)),
            cooldown_per_who: cooldown.is_some_and(|cooldown| has_word(&cooldown, "who")),
            delay: child(node, K::Delay).and_then(|delay| self.duration(&delay)),
            times: once.or_else(|| child(node, K::Times).and_then(|times| self.count(&times))),
            running_per_who: child(node, K::Busy).is_some_and(|busy| has_word(&busy, "who")),
            while_running: child(node, K::Busy).and_then(|busy| self.words(&busy).nth(2)),
            during: child(node, K::During).and_then(|during| {
                Some(During { stages: self.path(&during)?, stage: self.after(&during, "is")? })
            }),
            body: child(node, K::Block).map(|block| self.block(&block)).unwrap_or_default(),
        })
    }

    fn bind(&mut self, node: &Node) -> Option<Bind> {
        let mut nodes = exprs(node);
        let keep = self.path_of(&nodes.next()?)?;
        let to = self.expr(&nodes.next()?);
        Some(Bind { span: self.range(node), keep, each: has_word(node, "each"), to })
    }

    fn routine(&mut self, node: &Node) -> Option<Routine> {
        let name = self.words(node).nth(1)?;
        let body = child(node, K::Block).map(|block| self.block(&block)).unwrap_or_default();
        Some(Routine { span: self.range(node), name, fields: self.fields(node), body })
    }

    fn kit(&mut self, node: &Node) -> Option<Kit> {
        let name = self.words(node).nth(1)?;
        let (parameters, items) = (self.parameters(node), Items::default());
        let mut kit = Kit { name, parameters, items, made: 0, home: None };
        for item in node.children() {
            self.item(&item, &mut kit.items);
        }
        Some(kit)
    }

    fn use_item(&mut self, node: &Node) -> Option<Use> {
        let kit = self.words(node).nth(1)?;
        let name = self.after(node, "as");
        let (mut given, mut torn) = (Vec::new(), false);
        for node in child(node, K::Fields).iter().flat_map(|fields| children(fields, K::Given)) {
            if let (Some(name), Some(value)) = (self.words(&node).next(), self.first_expr(&node)) {
                given.push(Given { name, value });
            } else {
                torn = true;
            }
        }
        Some(Use { span: self.range(node), kit, name, given, torn, made: 0 })
    }
}
