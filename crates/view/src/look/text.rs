//! What everything is at a moment, as text.

use std::fmt::Write;

use crate::{
    look::{
        Seen, SeenObject, SeenPart, SeenVar, SeenWire,
        seen::{SeenReading, SeenTween},
        seen_wire::SeenWait,
    },
    phrase::thousands,
};

/// Lines of a group, each a name with what is to be said of it; the names are padded to the longest.
#[derive(Default)]
struct Table {
    rows: Vec<(String, String)>,
}

/// A longer name does not push all the others aside.
const WIDEST: usize = 32;

impl Table {
    fn row(&mut self, name: impl Into<String>, text: impl Into<String>) {
        self.rows.push((name.into(), text.into()));
    }

    fn print(self, indent: usize, out: &mut String) {
        let width = self.rows.iter().map(|(name, _)| name.chars().count()).max().unwrap_or(0).min(WIDEST);
        for (name, text) in self.rows {
            let line = format!("{:indent$}{name:<width$}  {text}", "");
            let _ = writeln!(out, "{}", line.trim_end());
        }
    }
}

/// `3.2s`, with as many digits as there are.
fn time(seconds: f64) -> String {
    format!("{seconds:.3}s")
}

impl Seen {
    /// All of it as text: objects by scene, players, variables, what waits, and wires.
    pub fn text(&self) -> String {
        let mut out = format!("{}  tick {}\n", time(self.time), thousands(self.tick));
        let mut scenes: Vec<Option<&str>> = vec![None];
        for object in &self.objects {
            if !scenes.contains(&object.scene.as_deref()) {
                scenes.push(object.scene.as_deref());
            }
        }
        for scene in scenes {
            let is_there = |object: &&SeenObject| object.player.is_none() && object.scene.as_deref() == scene;
            let objects: Vec<_> = self.objects.iter().filter(is_there).collect();
            if !objects.is_empty() {
                let head = scene.map_or_else(|| "objects".to_owned(), |scene| format!("objects of {scene}"));
                group(&head, &mut out);
                objects.into_iter().for_each(|object| object.print(&mut out));
            }
        }
        let players: Vec<_> = self.objects.iter().filter(|object| object.player.is_some()).collect();
        if !players.is_empty() {
            group("players", &mut out);
            players.into_iter().for_each(|player| player.print(&mut out));
        }
        if !self.variables.is_empty() {
            group("variables", &mut out);
            let mut table = Table::default();
            self.variables.iter().for_each(|var| table.row(&var.name, var.words()));
            table.print(2, &mut out);
        }
        if !self.waits.is_empty() {
            group("waiting", &mut out);
            let mut table = Table::default();
            self.waits.iter().for_each(|wait| table.row(&wait.wire, wait.words()));
            table.print(2, &mut out);
        }
        if !self.tweens.is_empty() {
            group("tweens", &mut out);
            let mut table = Table::default();
            self.tweens.iter().for_each(|tween| table.row(&tween.what, tween.words()));
            table.print(2, &mut out);
        }
        if !self.wires.is_empty() {
            group("wires", &mut out);
            self.wires.iter().for_each(|wire| wire.print(&mut out));
        }
        out
    }
}

fn group(name: &str, out: &mut String) {
    let _ = writeln!(out, "\n{name}");
}

impl SeenObject {
    /// Its name where its scene stands above it.
    fn short_name(&self) -> &str {
        let rest = self.scene.as_deref().and_then(|scene| self.name.strip_prefix(scene)?.strip_prefix('.'));
        rest.filter(|_| self.player.is_none()).unwrap_or(&self.name)
    }

    fn print(&self, out: &mut String) {
        let mut facts = vec![format!("at {}", self.at.text)];
        if self.facing.text != "0deg about y" && !self.facing.text.starts_with("0deg") {
            facts.push(format!("facing {}", self.facing.text));
        }
        if let Some(velocity) = self.velocity.as_ref().filter(|velocity| velocity.text != "(0, 0, 0)") {
            facts.push(format!("velocity {}", velocity.text));
        }
        let in_scene = self.scene.as_deref().filter(|_| self.player.is_some());
        facts.extend(in_scene.map(|scene| format!("in {scene}")));
        facts.extend(self.parent.as_ref().map(|parent| format!("on {parent}")));
        let tags: Vec<_> =
            self.tags.iter().filter(|tag| self.player.is_none() || *tag != "player").cloned().collect();
        if !tags.is_empty() {
            facts.push(format!("tags {}", tags.join(", ")));
        }
        facts.extend(self.manager.then(|| "manager".to_owned()));
        facts.extend(self.player.map(|number| format!("player {number}")));
        facts.extend((!self.enabled).then(|| "disabled".to_owned()));
        facts.extend(self.hidden.then(|| "hidden".to_owned()));
        facts.extend(self.passable.then(|| "passable".to_owned()));
        let _ = writeln!(out, "  {}  {}", self.short_name(), facts.join("  "));
        let mut table = Table::default();
        for part in &self.parts {
            table.row(&part.kind, part.words());
            part.variables.iter().for_each(|var| table.row(var.own_name(&self.name), var.words()));
        }
        self.variables.iter().for_each(|var| table.row(var.own_name(&self.name), var.words()));
        table.print(6, out);
    }
}

impl SeenReading {
    fn words(&self) -> String {
        match &self.of {
            Some(of) => format!("{} of {of} {}", self.name, self.value.text),
            None => format!("{} {}", self.name, self.value.text),
        }
    }
}

impl SeenPart {
    /// What it is now, in a line.
    fn words(&self) -> String {
        let mut facts: Vec<String> = self.state.iter().cloned().collect();
        facts.extend(self.readings.iter().map(SeenReading::words));
        // What is not set says nothing.
        let settings = self.settings.iter().filter(|setting| setting.value.text != "nothing");
        facts.extend(settings.map(SeenReading::words));
        facts.extend(self.asks.iter().map(|(setting, asked)| format!("{setting} {asked}")));
        facts.extend(self.acts_in.map(|left| format!("acts in {}", time(left))));
        if !self.inside.is_empty() {
            let all = self.inside.iter().map(|body| format!("{} since {}", body.name, time(body.since)));
            facts.push(format!("inside {}", all.collect::<Vec<_>>().join(", ")));
        }
        facts.join("  ")
    }
}

impl SeenVar {
    /// Its name without that of its object.
    fn own_name(&self, object: &str) -> String {
        let rest = self.name.strip_prefix(object).and_then(|rest| rest.strip_prefix('.'));
        rest.unwrap_or(&self.name).to_owned()
    }

    fn words(&self) -> String {
        let mut text = self.value.text.clone();
        if let Some(each) = &self.each {
            let all: Vec<_> = each
                .iter()
                .map(|one| format!("{} {}", one.of.as_deref().unwrap_or_default(), one.value.text))
                .collect();
            text = if all.is_empty() {
                format!("per player, {text} at first")
            } else {
                format!("{}  (others {text})", all.join(", "))
            };
        }
        if self.bound {
            text.push_str("  kept by a bind");
        }
        if self.remembered {
            text.push_str("  remembered");
        }
        text
    }
}

impl SeenWait {
    fn words(&self) -> String {
        let until = match (&self.until, self.due) {
            (Some(condition), Some(due)) => format!("until {condition}, to {} at the latest", time(due)),
            (Some(condition), None) => format!("until {condition}"),
            (None, Some(due)) => format!("until {}", time(due)),
            (None, None) => "until it is woken".to_owned(),
        };
        let who = self.who.as_ref().map_or_else(String::new, |who| format!("  who {who}"));
        format!("{}  since {}, {until}{who}", self.signal, time(self.since))
    }
}

impl SeenTween {
    fn words(&self) -> String {
        format!("from {} to {}, {:.0}% of its time is over", self.from.text, self.to.text, self.part * 100.0)
    }
}

/// How many signals of a group are named.
const NAMED: usize = 4;

impl SeenWire {
    fn print(&self, out: &mut String) {
        let mut head: Vec<String> = self.signals.iter().take(NAMED).cloned().collect();
        if self.signals.len() > NAMED {
            head.push(format!("and {} more", self.signals.len() - NAMED));
        }
        let mut facts = vec![if head.is_empty() { "nothing yet".to_owned() } else { head.join(", ") }];
        if !self.by.is_empty() {
            facts.push(format!("by {}", self.by.join(" or ")));
        }
        facts.extend(self.limits.iter().cloned());
        let _ = writeln!(out, "  {}  {}", self.place, facts.join("  "));
        let mut table = Table::default();
        if let Some(guard) = &self.when {
            table.row("when", guard.as_str());
        }
        if self.closure {
            table.row("does", "what a closure of the game does");
        } else if !self.leads_to.is_empty() {
            let all: Vec<_> = self.leads_to.iter().map(|lead| lead.text.as_str()).collect();
            table.row("does", all.join(", "));
        }
        let last = self.last_taken.map_or_else(String::new, |at| format!(", last at {}", time(at)));
        let asleep = if self.asleep { "  asleep" } else { "" };
        table.row("taken", format!("{}{last}{asleep}", times(self.taken)));
        if let Some(why) = &self.last_refusal {
            table.row("refused", format!("{}, last at {}: {}", times(self.refused), time(why.at), why.why));
        } else if self.refused > 0 {
            table.row("refused", times(self.refused));
        }
        table.print(6, out);
    }
}

fn times(count: u64) -> String {
    match count {
        0 => "never".to_owned(),
        1 => "once".to_owned(),
        many => format!("{} times", thousands(many)),
    }
}
