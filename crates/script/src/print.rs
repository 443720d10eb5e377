//! From the model back to a text.

mod expr;
mod statement;

use std::fmt::Write;

use crate::model::{
    Atom, Bind, Cases, Constant, Declaration, Field, File, Given, Item, Items, Kit, Limit, Name, Object,
    ParamType, Parameter, Part, Player, Playtest, Routine, SpanValue, Spot, StatementKind, Step, TypeRef,
    Use, Var, Where, Wire,
};

/// A file as a text, roughly set.
pub(crate) fn print(file: &File) -> String {
    let mut out = Printer::default();
    out.file(file);
    out.text
}

/// A value as a text.
pub(crate) fn value(value: &crate::model::Expr) -> String {
    expr::text(value)
}

#[derive(Default)]
pub(super) struct Printer {
    text: String,
}

pub(crate) fn quoted(text: &str) -> String {
    let mut quoted = String::from("\"");
    for c in text.chars() {
        match c {
            '"' => quoted.push_str("\\\""),
            '\\' => quoted.push_str("\\\\"),
            '{' => quoted.push_str("\\{"),
            '}' => quoted.push_str("\\}"),
            '\n' => quoted.push_str("\\n"),
            '\r' => quoted.push_str("\\r"),
            '\t' => quoted.push_str("\\t"),
            other => quoted.push(other),
        }
    }
    quoted.push('"');
    quoted
}

fn seeds(seeds: &[u64]) -> String {
    let all: Vec<_> = seeds.iter().map(u64::to_string).collect();
    format!("seeds {}", all.join(", "))
}

fn names(names: &[Name]) -> String {
    names.iter().map(|name| name.text.as_str()).collect::<Vec<_>>().join(", ")
}

fn fields(fields: &[Field]) -> String {
    if fields.is_empty() {
        return String::new();
    }
    let all: Vec<_> = fields.iter().map(|field| format!("{}: {}", field.name.text, ty(&field.ty))).collect();
    format!("({})", all.join(", "))
}

fn ty(ty: &TypeRef) -> String {
    ty.ty.to_string()
}

/// The settings of a part.
fn atoms(all: &[Atom]) -> String {
    let atom = |atom: &Atom| match atom {
        Atom::Word(word) => word.text.to_string(),
        Atom::Value(value) => {
            let text = expr::atom(value);
            // Without parentheses what begins with a word would be a word of the part again.
            if text.starts_with(|c: char| c.is_alphabetic() || c == '_') { format!("({text})") } else { text }
        }
        Atom::Group(group) => format!("{{ {} }}", atoms(group)),
    };
    all.iter().map(atom).collect::<Vec<_>>().join(" ")
}

impl Printer {
    pub(super) fn line(&mut self, line: &str) {
        self.text.push_str(line);
        self.text.push('\n');
    }

    fn file(&mut self, file: &File) {
        for (word, name) in [("project", &file.project), ("scene", &file.scene)] {
            if let Some(name) = name {
                self.line(&format!("{word} {}", name.text));
            }
        }
        for scene in &file.scenes {
            let left = scene.left.as_ref().map_or_else(String::new, |left| format!(" left {}", left.text));
            self.line(&format!("scene {}{left}", quoted(&scene.file.text)));
        }
        if let Some(ticks) = file.ticks {
            self.line(&format!("ticks {} per second", ticks.count));
        }
        if let Some(players) = file.players {
            self.line(&format!("players up to {}", players.count));
        }
        if !file.seeds.is_empty() {
            self.line(&seeds(&file.seeds));
        }
        for (word, paths) in
            [("shared", &file.shared), ("catalogue", &file.catalogues), ("places", &file.places)]
        {
            for path in paths {
                self.line(&format!("{word} {}", quoted(&path.text)));
            }
        }
        file.given.iter().for_each(|given| self.given(given));
        self.items(&file.items);
        for kit in &file.kits {
            self.kit(kit);
        }
        for playtest in &file.playtests {
            self.playtest(playtest);
        }
    }

    /// In the order of the text.
    fn items(&mut self, items: &Items) {
        for item in Vec::<Item>::from(items.clone()) {
            match &item {
                Item::Given(constant) => {
                    let Constant { name, ty: of, value, about } = constant;
                    let about =
                        about.as_ref().map_or_else(String::new, |about| format!(" {}", quoted(&about.text)));
                    self.line(&format!("given {}: {} = {}{about}", name.text, ty(of), expr::text(value)));
                }
                Item::Var(var) => self.var(var),
                Item::Signal(signal) => self.declaration("signal", signal),
                Item::Effect(effect) => self.declaration("effect", effect),
                Item::Object(object) => self.object("object", object),
                Item::Manager(manager) => self.object("manager", manager),
                Item::Mould(mould) => self.object("mould", mould),
                Item::Spot(spot) => self.spot(spot),
                Item::On(wire) => self.wire(wire),
                Item::Bind(bind) => self.bind(bind),
                Item::Never(rule) => self.line(&format!("never {}", expr::text(rule))),
                Item::Routine(routine) => self.routine(routine),
                Item::Add(used) => self.used(used),
            }
        }
    }

    fn given(&mut self, Given { name, value }: &Given) {
        self.line(&format!("given {} = {}", name.text, expr::text(value)));
    }

    fn var(&mut self, var: &Var) {
        let per = if var.per_player { " per player" } else { "" };
        let remember = if var.remember { " remember" } else { "" };
        let first = expr::text(&var.first);
        self.line(&format!("var {}: {} = {first}{per}{remember}", var.name.text, ty(&var.ty)));
    }

    fn declaration(&mut self, word: &str, declaration: &Declaration) {
        let crosses = declaration.crosses.as_ref().map_or_else(String::new, |crosses| {
            let by: Vec<_> = crosses.by.iter().map(|tag| tag.text.as_str()).collect();
            let by = if by.is_empty() { String::new() } else { format!(" by {}", by.join(" or ")) };
            format!(" crosses to {}{by}", crosses.to.text)
        });
        let sent = if declaration.sent_by_game { " sent by game" } else { "" };
        let heard = if declaration.heard_by_game { " heard by game" } else { "" };
        let (name, fields) = (&declaration.name.text, fields(&declaration.fields));
        self.line(&format!("{word} {name}{fields}{crosses}{sent}{heard}"));
    }

    fn spot(&mut self, spot: &Spot) {
        let mut line = format!("spot {} at {}", spot.name.text, expr::text(&spot.at));
        if let Some(facing) = &spot.facing {
            let _ = write!(line, " facing {}", expr::text(facing));
        }
        self.line(&line);
    }

    fn object(&mut self, word: &str, object: &Object) {
        let mut head = format!("{word} {}", object.name.text);
        if let Some(at) = &object.at {
            let _ = write!(head, " at {}", expr::text(at));
        }
        if let Some(facing) = &object.facing {
            let _ = write!(head, " facing {}", expr::text(facing));
        }
        if let Some(of) = &object.of {
            let _ = write!(head, " of {}", of.text());
        }
        if !object.tags.is_empty() {
            let _ = write!(head, " tags {}", names(&object.tags));
        }
        head.push_str(if object.disabled { " disabled" } else { "" });
        head.push_str(if object.body { " body" } else { "" });
        head.push_str(if object.remember { " remember" } else { "" });
        let Object { parts, vars, signals, spots, wires, .. } = object;
        if parts.is_empty() && vars.is_empty() && signals.is_empty() && spots.is_empty() && wires.is_empty() {
            return self.line(&head);
        }
        self.line(&format!("{head} {{"));
        for part in parts {
            self.part(part);
        }
        for var in vars {
            self.var(var);
        }
        for signal in signals {
            self.declaration("signal", signal);
        }
        for spot in spots {
            self.spot(spot);
        }
        for wire in wires {
            self.wire(wire);
        }
        self.line("}");
    }

    fn part(&mut self, part: &Part) {
        self.line(&format!("{} {{ {} }}", part.kind.text, atoms(&part.settings)));
    }

    pub(super) fn wire(&mut self, wire: &Wire) {
        let every = if wire.every { "every " } else { "" };
        let mut head = format!("on {every}{}", wire.on.text());
        if !wire.pattern.is_empty() {
            let _ = write!(head, "({})", expr::list(&wire.pattern));
        }
        if !wire.by.is_empty() {
            let tags: Vec<_> = wire.by.iter().map(|tag| tag.text.as_str()).collect();
            let _ = write!(head, " by {}", tags.join(" or "));
        }
        if let Some(when) = &wire.when {
            let _ = write!(head, " when {}", expr::text(when));
        }
        if let Some(during) = &wire.during {
            let _ = write!(head, " while {} is {}", during.stages.text(), during.stage.text);
        }
        if wire.order != 0 {
            let _ = write!(head, " order {}", wire.order);
        }
        if let Some(cooldown) = wire.cooldown {
            let who = if wire.cooldown_per_who { " per who" } else { "" };
            let _ = write!(head, " cooldown {}s{who}", cooldown.0);
        }
        if let Some(delay) = wire.delay {
            let _ = write!(head, " delay {}s", delay.0);
        }
        match wire.times {
            Some(1) => head.push_str(" once"),
            Some(times) => {
                let _ = write!(head, " times {times}");
            }
            None => {}
        }
        if let Some(word) = &wire.while_running {
            let who = if wire.running_per_who { " per who" } else { "" };
            let _ = write!(head, " while running {}{who}", word.text);
        }
        self.block(&head, &wire.body);
    }

    fn bind(&mut self, bind: &Bind) {
        let each = if bind.each { "each " } else { "" };
        self.line(&format!("bind {each}{} = {}", bind.keep.text(), expr::text(&bind.to)));
    }

    fn routine(&mut self, routine: &Routine) {
        self.block(&format!("routine {}{}", routine.name.text, fields(&routine.fields)), &routine.body);
    }

    fn kit(&mut self, kit: &Kit) {
        let parameter = |parameter: &Parameter| {
            let Parameter { name, ty, default } = parameter;
            let ty = match &ty.ty {
                ParamType::Value(ty) => ty.to_string(),
                named => named.word().to_owned(),
            };
            let default =
                default.as_ref().map_or_else(String::new, |value| format!(" = {}", expr::text(value)));
            format!("{}: {ty}{default}", name.text)
        };
        let parameters: Vec<_> = kit.parameters.iter().map(parameter).collect();
        let parameters =
            if parameters.is_empty() { String::new() } else { format!("({})", parameters.join(", ")) };
        self.line(&format!("kit {}{parameters} {{", kit.name.text));
        self.items(&kit.items);
        self.line("}");
    }

    fn used(&mut self, used: &Use) {
        let mut line = format!("add {}", used.kit.text);
        if let Some(name) = &used.name {
            let _ = write!(line, " as {}", name.text);
        }
        let given: Vec<_> = used
            .given
            .iter()
            .map(|given| format!("{}: {}", given.name.text, expr::text(&given.value)))
            .collect();
        if !given.is_empty() {
            let _ = write!(line, "({})", given.join(", "));
        }
        self.line(&line);
    }

    fn playtest(&mut self, playtest: &Playtest) {
        let seeds =
            if playtest.seeds.is_empty() { String::new() } else { format!(" {}", seeds(&playtest.seeds)) };
        let linked = if playtest.linked { " linked" } else { "" };
        self.line(&format!("playtest {}{linked}{seeds} {{", quoted(&playtest.name.text)));
        playtest.given.iter().for_each(|given| self.given(given));
        playtest.cases.iter().for_each(|cases| self.cases(cases));
        for Player { name, at, scene, tags } in &playtest.players {
            let start = start(Some(somewhere(at)), scene.as_ref(), tags);
            self.line(&format!("player {}{start}", name.text));
        }
        playtest.steps.iter().for_each(|step| self.step(&step.step));
        self.line("}");
    }

    fn cases(&mut self, cases: &Cases) {
        self.line(&format!("cases ({}) {{", names(&cases.names)));
        for case in &cases.rows {
            let name = case.name.as_ref().map_or_else(String::new, |name| format!("{} ", quoted(&name.text)));
            self.line(&format!("{name}({})", expr::list(&case.values)));
        }
        self.line("}");
    }

    fn step(&mut self, step: &Step) {
        let within = |limit: &Option<SpanValue>| {
            limit.map_or_else(String::new, |limit| format!(" within {}", span(limit)))
        };
        let line = match step {
            Step::Walk { player, to } => format!("{} walks to {}", player.text, somewhere(to)),
            Step::GoThrough { player, at } => format!("{} goes through {}", player.text, somewhere(at)),
            Step::Answer { player, prompt } => format!("{} answers {}", player.text, prompt.text()),
            Step::Hold { player, key, span: held } => {
                format!("{} holds {} {}", player.text, key.text, span(*held))
            }
            Step::KeyDown { player, key } => format!("{} holds {}", player.text, key.text),
            Step::KeyUp { player, key } => format!("{} releases {}", player.text, key.text),
            Step::Point { player, at, from_there, button } => {
                let mut line = format!("{} points at {}", player.text, somewhere(at));
                if let Some(from_there) = from_there {
                    let _ = write!(line, " at {}", expr::text(from_there));
                }
                if let Some(button) = button {
                    let _ = write!(line, " with {}", button.text);
                }
                line
            }
            Step::Choose { player, answer: Some(answer) } => {
                format!("{} chooses {}", player.text, answer.text)
            }
            Step::Choose { player, answer: None } => format!("{} declines", player.text),
            Step::Leave { player } => format!("{} leaves", player.text),
            Step::Join { player, at, scene, tags } => {
                format!(
                    "{} joins{}",
                    player.text,
                    start(at.as_ref().map(|at| at.text().to_string()), scene.as_ref(), tags)
                )
            }
            Step::Press { player, key } => format!("{} presses {}", player.text, key.text),
            Step::Pause { player, span: time } => format!("{} waits {}", player.text, span(*time)),
            Step::Wait(time) => format!("wait {}", span(*time)),
            Step::Until { what, within: limit } => {
                format!("wait until {}{}", expr::text(what), within(limit))
            }
            Step::Expect { .. } | Step::ExpectWith { .. } => format!("expect {}", expected(step)),
            Step::Sees { player, what } => format!("{} sees {}", player.text, expected(what)),
            Step::Does(statement) => {
                // A playtest's line begins with a word of its own.
                let set = if matches!(statement.kind, StatementKind::Set { .. }) { "set " } else { "" };
                let from = self.text.len();
                self.statement(&statement.kind);
                let begins = self.text[from..].find(|c: char| c != ' ').unwrap_or(0);
                self.text.insert_str(from + begins, set);
                return;
            }
            Step::Block(statements) => return self.block("", statements),
            Step::InOrder { what, within: limit } => {
                let names: Vec<_> = what.iter().map(crate::model::Path::text).collect();
                format!("expect in order {}{}", names.join(", "), within(limit))
            }
            Step::Always(what) => format!("always {}", expr::text(what)),
            Step::Never(what) => format!("never {}", expr::text(what)),
            Step::Save => "save".to_owned(),
            Step::Reload => "reload".to_owned(),
            Step::Suspend => "suspend".to_owned(),
            Step::AllowFaults => "allow faults".to_owned(),
            Step::Together(steps) => {
                self.line("together {");
                steps.iter().for_each(|step| self.step(&step.step));
                return self.line("}");
            }
        };
        self.line(&line);
    }
}

fn span(span: SpanValue) -> String {
    match span {
        SpanValue::Seconds(span) => format!("{}s", span.0),
        SpanValue::Ticks { ticks } => format!("{ticks}ticks"),
    }
}

fn limit(limit: Limit) -> String {
    match limit {
        Limit::Now => String::new(),
        Limit::Within(time) => format!(" within {}", span(time)),
        Limit::Exactly(times) => format!(" exactly {times}"),
    }
}

/// What is expected, and how often or how soon.
fn expected(step: &Step) -> String {
    match step {
        Step::Expect { what, limit: given } => format!("{}{}", expr::text(what), limit(*given)),
        Step::ExpectWith { what, values, limit: given } => {
            format!("{}({}){}", what.text(), expr::list(values), limit(*given))
        }
        _ => String::new(),
    }
}

/// An object, a spot or a place that somebody goes to or points at.
fn somewhere(at: &Where) -> String {
    match at {
        Where::Named(path) => path.text().to_string(),
        Where::Held(at) => expr::text(at),
    }
}

/// Where a player begins.
fn start(at: Option<String>, scene: Option<&Name>, tags: &[Name]) -> String {
    let mut text = at.map_or_else(String::new, |at| format!(" at {at}"));
    if let Some(scene) = scene {
        let _ = write!(text, " in {}", scene.text);
    }
    if !tags.is_empty() {
        let _ = write!(text, " tags {}", names(tags));
    }
    text
}
