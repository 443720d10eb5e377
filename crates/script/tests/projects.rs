//! Projects and their playtests: what is found when they are read, and what they do.

use std::{collections::BTreeMap, sync::Arc};

use stoicheon_core::{
    Catalogue, Error, SaveMismatch, SmolStr, Snapshot, TickRate, Value, World,
    playtest::{NoHost, PlaytestError, PlaytestHost, Verdict},
};
use stoicheon_script::{Diagnostic, Loaded, Project, load, render};

/// Files that are nowhere but here.
type Files = BTreeMap<&'static str, String>;

fn files(all: &[(&'static str, &str)]) -> Files {
    all.iter().map(|(name, text)| (*name, (*text).to_owned())).collect()
}

fn project(files: &Files) -> Arc<Project> {
    let read = |path: &str| files.get(path).cloned().ok_or_else(|| "there is no such file".to_owned());
    Arc::new(Project::load("canal.stoi", &files["canal.stoi"], &Catalogue::built_in(), &read))
}

/// What is wrong, as people see it.
fn told(project: &Project) -> String {
    let all = project.parts().flat_map(|part| {
        part.diagnostics().iter().map(|found| render(found, part.sources(), false) + "\n\n")
    });
    all.collect()
}

fn good(files: &Files) -> (Arc<Project>, World<()>) {
    let project = project(files);
    assert!(!project.has_errors(), "{}", told(&project));
    let mut world = World::with(project.config());
    project.build(&mut world).unwrap();
    (project, world)
}

/// Makes other worlds of a project; keeps what is kept as data.
struct Rebuilt(Arc<Project>);

impl PlaytestHost<()> for Rebuilt {
    fn fresh(&mut self) -> Result<World<()>, PlaytestError> {
        let mut world = World::with(self.0.config());
        self.0.build(&mut world)?;
        Ok(world)
    }
    fn keep_whole(&mut self, snapshot: Snapshot) -> Result<Snapshot, String> {
        let text = serde_json::to_string(&snapshot).map_err(|error| error.to_string())?;
        serde_json::from_str(&text).map_err(|error| error.to_string())
    }
}

/// The first playtest of the project's own file.
fn run(files: &Files) -> Result<Verdict, PlaytestError> {
    let (project, mut world) = good(files);
    project.head().run_playtest(0, &mut world, &mut (), &mut Rebuilt(project.clone()))
}

fn passes(files: &Files) {
    let verdict = run(files).unwrap();
    assert!(verdict.passed(), "{:?}", verdict.failure);
}

const LOCK: &str = "scene lock
spot steps at (5, 0, 0)
object mouth { zone box (2, 2, 2); spot arrival at (0, 0, 0) }
object gate at (8, 0, 0) tags gate { door { over 0.2s } }
on mouth.entered by player { send who to mouth.arrival in tunnel }
";
const TUNNEL: &str = "scene tunnel
object mouth { zone box (2, 2, 2); spot arrival at (0, 0, 0) }
object gate at (8, 0, 0) tags gate { door { over 0.2s; remember } }
on mouth.entered by player { send who to mouth.arrival in lock }
";
const HEAD: &str = "project canal
scene \"lock.stoi\" left running
scene \"tunnel.stoi\"
";

fn canal(head: &str, lock: &str, tunnel: &str) -> Files {
    files(&[
        ("canal.stoi", &[HEAD, head].concat()),
        ("lock.stoi", &[LOCK, lock].concat()),
        ("tunnel.stoi", &[TUNNEL, tunnel].concat()),
    ])
}

#[test]
fn names_of_two_scenes_do_not_meet_and_a_tag_means_those_of_the_scene() {
    let all = canal(
        "signal knock\nplaytest \"tags\" {\n  player ada at steps in lock\n  player bob at gate in tunnel\n  \
         wait 0.5s\n  expect lock.gate is open and tunnel.gate is closed\n  expect lock.any_open\n  \
         expect not tunnel.any_open\n  expect lock.players == 1\n}\n",
        "var any_open: boolean = false\nbind any_open = any gate is open\n\
         var players: whole = 0\nbind players = count(everyone)\non started { open every gate }\n",
        "var any_open: boolean = false\nbind any_open = any gate is open\n",
    );
    passes(&all);
    let (_, world) = good(&all);
    assert!(world.find("lock.gate").is_some() && world.find("gate").is_none());
    assert!(world.find("tunnel.gate").is_none(), "it is not loaded before somebody comes");
}

#[test]
fn what_all_scenes_share_is_there_once_and_is_heard_from_every_scene() {
    let head = "shared \"keeper.stoi\"\nplaytest \"knocks\" {\n  player ada at steps in lock\n  \
                player bob at gate in tunnel\n  ada presses knock\n  bob presses knock\n  \
                expect knocks == 2\n  expect say exactly 2\n  expect lock.pressed exactly 1\n}\n";
    let scene = "on pressed(\"knock\") { emit knock }\n";
    let mut all = canal(head, scene, scene);
    all.insert(
        "keeper.stoi",
        "effect say(words: text)\nsignal knock\nvar knocks: whole = 0\nroutine greet(words: text) { perform say(words) }\n\
         manager keeper { on knock { knocks += 1; do greet(\"Who is there?\") } }\n"
            .to_owned(),
    );
    // Each of the two presses is heard by one scene alone: by that of the player who pressed.
    passes(&all);
}

#[test]
fn playtests_go_from_scene_to_scene_join_leave_save_reload_and_suspend() {
    let head = "players up to 2\nvar coins: whole = 0 per player remember\neffect bell\n\
        on joined { coins of who += 1 }\n\
        playtest \"all of it\" {\n  player ada at steps in lock\n  \
        always coins of ada < 9\n  \
        ada goes through lock.mouth\n  expect ada in tunnel and not ada in lock\n  \
        cid joins at gate_spot in tunnel tags keeper\n  expect cid tagged keeper and cid in tunnel\n  \
        cid presses wind\n  wait until tunnel.gate is open within 1s\n  \
        expect bell exactly 1\n  save\n  cid leaves\n  ada walks to tunnel.gate\n  reload\n  \
        expect cid in tunnel and cid tagged keeper\n  expect tunnel.gate is open\n  expect coins of cid == 2\n  \
        suspend\n  cid leaves, joins\n  expect cid in tunnel\n  expect coins of cid == 3\n  never bell\n  wait 0.2s\n}\n";
    let tunnel = "spot gate_spot at (8, 0, 3)\non pressed(\"wind\") by keeper { open gate; perform bell }\n";
    passes(&canal(head, "", tunnel));
    // A third player is one too many: the call says so.
    let third = head.replace("expect bell exactly 1", "dot joins at gate_spot in tunnel");
    assert_eq!(run(&canal(&third, "", tunnel)).unwrap_err(), Error::NoRoom { most: 2 }.into());
    // Without a stage, no other world can be made.
    let (project, mut world) = good(&canal(head, "", tunnel));
    let alone = project.head().run_playtest(0, &mut world, &mut (), &mut NoHost);
    assert_eq!(alone.unwrap_err(), PlaytestError::NoHost);
}

#[test]
fn a_spot_of_another_scene_is_kept_saved_compared_and_leads_there() {
    let head = "shared \"home.stoi\"\n\
        playtest \"home\" {\n  player ada at steps in lock\n  player bob at steps in lock\n  \
        ada goes through lock.mouth\n  ada presses rest\n  expect home of ada == (bench in tunnel)\n  \
        expect home of ada != (mouth.arrival in tunnel)\n  expect tunnel.same\n  \
        ada walks to tunnel.gate\n  save\n  reload\n  ada presses back\n  wait 0.1s\n  \
        expect distance(ada, (0, 0, 9)) == 0\n  ada leaves, joins\n  expect home of ada == (bench in tunnel)\n  \
        bob presses back\n  wait 0.1s\n  expect bob in lock and distance(bob, (5, 0, 0)) == 0\n  \
        bob presses far\n  expect say(\"5\")\n  \
        bob presses fetch\n  wait 0.1s\n  expect bob in tunnel\n  expect say(\"bench in tunnel\") exactly 1\n}\n";
    let lock = "on pressed(\"fetch\") { emit meet(bench in tunnel) for who }\n\
        on pressed(\"far\") { var there = steps in lock; perform say(\"{distance(there, mouth.arrival in lock)}\") }\n";
    let tunnel = "spot bench at (0, 0, 9)\nvar same: boolean = false\n\
        on pressed(\"rest\") { home of who = bench in tunnel; same = home of who == bench }\n";
    let mut all = canal(head, lock, tunnel);
    all.insert(
        "home.stoi",
        "effect say(words: text)\nsignal meet(there: spot)\nvar home: spot = steps in lock per player remember\n\
         on pressed(\"back\") { send who to home of who }\non meet { perform say(\"{there}\"); send who to there }\n"
            .to_owned(),
    );
    passes(&all);
    // The names are checked as those of `send` are.
    all.insert("lock.stoi", [LOCK, &lock.replace("bench in", "bank in")].concat());
    let told = told(&project(&all));
    assert!(told.contains("the scene `tunnel` has no spot `bank`"), "{told}");
}

#[test]
fn expectations_that_are_not_met_say_what_was_found() {
    let found = |lines: &str| {
        let playtest = format!("playtest \"fails\" {{\n  player ada at steps in lock\n{lines}}}\n");
        let scene = "effect bell\nobject post at (5, 0, 1) { prompt \"Ring\" key use, hold 0.1s }\n\
            on post.answered { perform bell }\n";
        let failure = run(&canal(&playtest, scene, "")).unwrap().failure.expect(lines);
        format!("{}: {:?}", failure.place, failure.found)
    };
    let lines = [
        "  ada answers lock.post\n  ada walks to lock.gate\n  ada answers lock.post\n",
        "  wait 0.1s\n  expect in order lock.post.answered, bell within 1s\n",
        "  wait 0.1s\n  ada answers lock.post\n  expect in order bell, lock.post.answered within 0.2s\n",
        "  never bell\n  wait 0.1s\n  ada answers lock.post\n",
        "  wait until lock.gate is open within 0.1s\n",
        "  reload\n",
        "  together {\n    ada walks to lock.gate, answers lock.post\n  }\n",
        "  wait 0.1s\n  ada answers lock.post\n  expect bell exactly 2 within\n"
            .trim_end_matches(" within\n"),
    ];
    let all: Vec<_> = lines.iter().map(|line| found(&format!("{line}\n"))).collect();
    insta::assert_snapshot!(all.join("\n"));
}

#[test]
fn what_stands_in_the_wrong_file_is_told_of() {
    let all = canal(
        "object post\nshared \"nowhere.stoi\"\nscene \"lock.stoi\" left alone\nticks 0 per second\n",
        "manager keeper { on started { open gate } }\neffect say(words: text)\nmould barge body\nkit idle() {}\n",
        "effect say(times: whole)\nmould barge body\non gate.opened { open lock.gate }\n\
         on arrived(_, \"x\", _) when who in moon { close gate }\n\
         playtest \"far\" {\n  player ada at mouth.arival in lock\n  expect lock.gate is opne\n}\n",
    );
    insta::assert_snapshot!(told(&project(&all)));
}

#[test]
fn a_project_sets_the_pace_the_seed_and_how_many_play() {
    let head = "ticks 60 per second\nseeds 9, 10\nplayers up to 3\n";
    let (project, world) = good(&canal(head, "", ""));
    assert_eq!((project.name(), project.seeds()), ("canal", &[9, 10][..]));
    assert_eq!((world.rate(), project.config().seed), (TickRate::new(60).unwrap(), 9));
    // The same in another order of lines, and as JSON.
    let json = stoicheon_script::to_json(&[HEAD, head].concat()).unwrap();
    let back = stoicheon_script::from_json(&json).unwrap();
    let (again, _) = good(&BTreeMap::from([
        ("canal.stoi", back),
        ("lock.stoi", LOCK.to_owned()),
        ("tunnel.stoi", TUNNEL.to_owned()),
    ]));
    assert_eq!((again.config(), again.seeds()), (project.config(), project.seeds()));
}

#[test]
fn comments_do_not_make_another_project_and_a_changed_door_does() {
    let (_, world) = good(&canal("", "", ""));
    let whole = world.snapshot().unwrap();
    let (_, mut same) = good(&canal("// a word\n", "\n// and another\n", "playtest \"new\" {\n}\n"));
    same.restore(&whole).unwrap();
    let (_, mut other) = good(&canal("var level: number = 1\n", "", "object lamp at (1, 0, 0)\n"));
    let before = other.save().unwrap();
    let error = other.restore(&whole).unwrap_err().to_string();
    insta::assert_snapshot!(error, @"the snapshot does not fit this world: the scene tunnel is written otherwise now; what all scenes share is written otherwise now");
    assert_eq!(other.save().unwrap(), before, "nothing was changed");
}

#[test]
fn a_save_of_a_scene_that_is_not_loaded_is_told_of_when_it_is() {
    let remembering = "var depth: number = 1 remember\nvar muddy: boolean = false remember\n";
    let (_, mut world) = good(&canal("", "", remembering));
    let tunnel = world.find_scene("tunnel").unwrap();
    world.load_scene(tunnel).unwrap();
    world.set(world.find_var("tunnel.depth").unwrap(), 3.0).unwrap();
    world.step(&mut ()).unwrap();
    let mut save = world.save().unwrap();
    let (_, mut fresh) = good(&canal("", "", &remembering.replace("boolean = false", "text = \"no\"")));
    assert_eq!(fresh.recall(&save).unwrap(), []);
    fresh.load_scene(tunnel).unwrap();
    assert_eq!(fresh.value(fresh.find_var("tunnel.depth").unwrap()).unwrap(), &Value::Number(3.0));
    let faults: Vec<_> = fresh
        .trace()
        .records()
        .filter_map(|(_, record)| match record.event {
            stoicheon_core::Event::Fault { message, .. } => Some(message),
            _ => None,
        })
        .collect();
    assert_eq!(faults.len(), 1);
    assert!(faults[0].contains("expected text for variable \"tunnel.muddy\", found a boolean"), "{faults:?}");
    // A scene nobody knows is told of at once, and the rest counts.
    let moon = save.scenes.swap_remove("tunnel").unwrap();
    save.scenes.insert("moon".into(), moon);
    let (_, mut fresh) = good(&canal("", "", remembering));
    let unknown = SaveMismatch::Unknown { kind: "a scene", name: SmolStr::new("moon") };
    assert_eq!(fresh.recall(&save).unwrap(), [unknown]);
}

#[test]
fn prompts_of_different_scenes_do_not_hide_each_other() {
    let prompt =
        |name: &str| format!("object {name} at (0, 0, 0) {{ prompt \"{name}\" key use, reach 2 }}\n");
    let lock = "scene lock\nspot steps at (9, 0, 0)\n".to_owned() + &prompt("winch") + &prompt("bell");
    let tunnel = "scene tunnel\nspot mouth at (9, 0, 0)\n".to_owned() + &prompt("lamp");
    let head = "project canal\nscene \"tunnel.stoi\"\nscene \"lock.stoi\"\n";
    let all = [("canal.stoi", head), ("lock.stoi", &lock), ("tunnel.stoi", &tunnel)];
    let project = project(&files(&all)).checked_in_place();
    let told: Vec<_> = project.parts().map(|part| part.diagnostics().len()).collect();
    assert_eq!(told, [0, 0, 1], "{}", self::told(&project));
    let found = &project.scenes()[1].diagnostics()[0];
    assert_eq!(found.message, "the prompt of `lock.bell` is never offered: that of `lock.winch` is as near");
}

#[test]
fn what_is_seen_with_all_scenes_in_sight_is_told_once_and_where_it_stands() {
    let shared = "var level: number = 0\nvar depth: number = 0\nbind level = depth\nbind depth = level\n";
    let lock = "scene lock\nspot steps at (0, 0, 0)\nroutine ring() { do call() }\nroutine call() { do ring() }\nbind level = 1\n\
                playtest \"tags stay\" { player ada at steps; tag ada as captain; expect ada in lock }\n";
    let tunnel = "scene tunnel\nspot mouth at (0, 0, 0)\nbind level = 2\n\
                  playtest \"of others\" { player ada at mouth; expect any every captain is enabled; ada chooses nothing }\n";
    let head = "project canal\nshared \"all.stoi\"\nscene \"lock.stoi\"\nscene \"tunnel.stoi\"\n";
    let all = [("canal.stoi", head), ("all.stoi", shared), ("lock.stoi", lock), ("tunnel.stoi", tunnel)];
    let project = project(&files(&all));
    let of = |part: &Loaded| -> Vec<String> {
        let said = |found: &Diagnostic| {
            let at = found.labels.first().map(|label| label.span.file);
            format!("{}: {}", part.sources().get(at.unwrap()).unwrap().name(), found.message)
        };
        part.diagnostics().iter().map(said).collect()
    };
    let told: Vec<_> = project.parts().map(of).collect();
    let bound = "`level` is kept by two binds";
    assert_eq!(told[0], Vec::<String>::new());
    assert_eq!(
        told[1],
        [
            "lock.stoi: these routines call each other in a circle: lock.ring, lock.call, lock.ring"
                .to_owned(),
            format!("lock.stoi: {bound}"),
        ]
    );
    assert_eq!(
        told[2],
        [
            format!("tunnel.stoi: {bound}"),
            "tunnel.stoi: nothing in this file has the tag `captain`".to_owned(),
            "tunnel.stoi: no choice has the answer `nothing`".to_owned(),
        ]
    );
}

#[test]
fn a_scene_that_stands_alone_knows_of_no_others() {
    let loaded = load("lock.stoi", "on joined when who in tunnel { stop }\n", &Catalogue::built_in());
    let said: Vec<_> = loaded.diagnostics().iter().map(|found| found.message.clone()).collect();
    assert_eq!(said, ["a scene outside a project has no other scenes"]);
}

#[test]
fn suspicions_of_a_project_look_at_all_its_scenes_and_are_explained_where_they_stand() {
    let head = "project canal\nshared \"all.stoi\"\nscene \"lock.stoi\"\nscene \"tunnel.stoi\"\n";
    let read = |path: &str| {
        match path {
        "all.stoi" => Ok("var level: number = 0\nvar hidden: number = 0\nsignal paid\nsignal lost\n".to_owned()),
        "lock.stoi" => Ok("scene lock\nspot steps at (9, 0, 0)\non joined { level = 1; hidden = 2; emit paid }\n\
                           // on purpose: shut until the pump is there\non paid when level > 2 and level < 1 { level = 0 }\n\
                           object well at (5, 0, 0) { zone ball 2; on entered { send who to steps } }\n"
            .to_owned()),
        "tunnel.stoi" => Ok("scene tunnel\nspot mouth at (0, 0, 0)\nspot end at (9, 0, 0)\non arrived when level > 0 { emit paid }\n\
                             object hole at (9, 0, 0) { zone ball 2; on entered { send who to end } }\n"
            .to_owned()),
        _ => Err("there is no such file".to_owned()),
    }
    };
    let project = Project::load("canal.stoi", head, &Catalogue::built_in(), &read).checked_in_place();
    let of = |loaded: &Loaded| -> Vec<String> {
        let said = |found: &Diagnostic| format!("{} {}", found.code.word(), found.message);
        loaded.diagnostics().iter().map(said).collect()
    };
    assert_eq!(
        of(project.head()),
        [
            "unread `hidden` is set, but nothing reads it",
            "unused-signal nothing emits `lost`, and no wire listens to it"
        ]
    );
    assert_eq!(of(&project.scenes()[0]), Vec::<String>::new());
    assert_eq!(
        of(&project.scenes()[1]),
        [
            "arrival-inside `tunnel.hole` sends to `tunnel.end`, which is inside the zone of `tunnel.hole`, which sends on"
        ]
    );
}
