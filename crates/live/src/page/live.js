// The page: asks the world at every frame of the display what has changed, and hands that to the ground, the tape, the bench and the clock.
import { world, ask, take, tell, say, choose, play, hear } from "./world.js";
import { Ground } from "./ground.js";
import { Tape } from "./tape.js";
import { Bench, place } from "./bench.js";
import { Keys } from "./keys.js";
import { Clock } from "./clock.js";
import { Made } from "./made.js";
import { beside } from "./beside.js";

const $ = (id) => document.getElementById(id);

const ground = new Ground($("map"), $("scenes"));
const tape = new Tape($("lines"));
const bench = new Bench($("chosen"));
const clock = new Clock($("band"));
const keys = new Keys(ground, clock);
const made = new Made();
hear("chosen", () => { ground.chosen(); tape.chosen(); bench.chosen(); });
hear("leaves", () => keys.stop());
hear("plays", () => { players(); ground.follow(); });

function players() {
  const list = world.state?.players ?? [];
  const seen = list.map((player) => player.name);
  if (!seen.includes(world.player)) world.player = seen[0] ?? null;
  const nav = $("players");
  nav.replaceChildren(...list.map((player, number) => {
    const button = document.createElement("button");
    button.textContent = player.follows ? `${player.name} → ${player.follows}` : player.name;
    button.title = `${player.name} (${number + 1})`;
    button.setAttribute("aria-pressed", player.name === world.player);
    button.onclick = () => { play(player.name); $("map").focus(); };
    return button;
  }));
  const who = $("who");
  const kept = who.value;
  const options = ["", ...seen];
  if (options.length !== who.options.length || options.some((name, at) => who.options[at].value !== name)) {
    who.replaceChildren(...options.map((name) => new Option(name || "anybody", name)));
    who.value = options.includes(kept) ? kept : "";
  }
}

let asked = "";
function questions() {
  const mine = world.me()?.questions?.[0];
  const key = mine ? `${world.player} ${mine.text}` : "";
  if (key === asked) return;
  asked = key;
  const box = $("ask");
  box.hidden = !mine;
  if (!mine) return;
  const who = world.player;
  const words = document.createElement("b");
  words.textContent = mine.text;
  const answer = (word) => {
    const button = document.createElement("button");
    button.textContent = word ?? "no answer";
    button.onclick = () => { ask({ do: "answer", who, answer: word }); $("map").focus(); };
    return button;
  };
  box.replaceChildren(words, ...mine.answers.map(answer), answer(null));
  tell(`${who} is asked: ${mine.text}`);
}

let offered = "";
function offers() {
  const offer = world.me()?.offer;
  const words = offer ? `${offer.label} (${offer.key})` : "";
  if (words && words !== offered) tell(`${world.player} is offered: ${words}`);
  offered = words;
}

let known = "";
/** What the checker says of the wiring as it is saved. */
function saved({ findings = [], is_other = false, restarts }) {
  const restart = $("restart");
  restart.hidden = !restarts;
  restart.classList.toggle("news", is_other);
  restart.textContent = is_other ? "restart with what is saved" : "restart";
  const words = findings.join("\n\n");
  if (words === known) return;
  known = words;
  $("findings").textContent = words;
  $("found").hidden = !words;
  if (words) tell(`saved with faults: ${findings[0].split("\n")[0]}`);
}

let taken = 0;
/** What became of the world when the wiring that was saved took over. */
function tookOver(what) {
  if (!what) { $("took").hidden = true; return; }
  if (what.number === taken) return;
  taken = what.number;
  $("took-tick").textContent = `at tick ${what.tick} · ${what.kept}`;
  const rows = what.changes.map(([where, words]) => where ? place(where, words) : words + "\n");
  $("changes").replaceChildren(...(rows.length ? rows : ["nothing is written otherwise"]));
  $("took").hidden = false;
  if (!$("beside").hidden) beside($("file").textContent);
  tell(`what was saved has taken over: ${what.changes.length} changes; ${what.kept}`);
}

function state() {
  const now = world.state;
  document.title = `${now.title} · live`;
  $("title").textContent = now.title;
  const line = $("state");
  const watching = now.pages > 1 ? ` · ${now.pages} pages` : "";
  line.textContent = now.trouble ?? (now.untraced ? "nothing is recorded: no tape" : now.looking_back ? `looking back${watching}` : now.paused ? `held${watching}` : `running${watching}`);
  line.classList.toggle("bad", Boolean(now.trouble));
  players(); questions(); offers(); saved(now); tookOver(now.took_over);
  clock.state();
}

function put(reply) {
  world.tick = reply.tick;
  const known = world.tape.at(-1)?.n ?? 0;
  if (reply.whole) { world.things.clear(); world.byName.clear(); world.tape = []; tape.clear(); ground.clear(); clock.clear(); }
  if (reply.scenes) { world.scenes = reply.scenes; ground.scenes(); }
  for (const number of reply.gone ?? []) {
    const thing = world.things.get(number);
    if (thing) { ground.gone(); world.things.delete(number); if (world.byName.get(thing.of) === thing) world.byName.delete(thing.of); }
  }
  for (const thing of reply.things ?? []) {
    const before = world.things.get(thing.number);
    ground.took(thing, before);
    world.things.set(thing.number, thing);
    if (thing.of) world.byName.set(thing.of, thing);
  }
  for (const [number, x, y] of reply.at ?? []) {
    const thing = world.things.get(number);
    if (thing) ground.moved(thing, [x, y]);
  }
  if (reply.cut !== undefined) {
    while (world.tape.length && world.tape.at(-1).n > reply.cut) world.tape.pop();
    tape.cut(reply.cut); ground.clear();
  }
  if (reply.tape) {
    world.tape.push(...reply.tape);
    if (world.tape.length > 8000) world.tape.splice(0, world.tape.length - 6000);
    tape.add(reply.tape);
    // Lines that come again, since they are written elsewhere now, have not just happened.
    const fresh = reply.whole ? reply.tape : reply.tape.filter((line) => line.n > known);
    clock.add(fresh);
    if (!reply.whole) ground.lit(fresh);
    for (const line of fresh) if (!reply.whole && line.event === "performed") tell(line.text);
  }
  if (reply.state) { world.state = reply.state; state(); }
  if (reply.steers !== undefined) { world.steers = reply.steers; $("steer").hidden = reply.steers; }
  if (reply.bench) bench.put(reply.bench);
  if (reply.made) made.put(reply.made);
  for (const said of reply.say ?? []) {
    if (said.kind === "ask") confirm(said.text); else say(said.text);
    $("line").classList.toggle("bad", said.kind === "no");
    tell(said.text);
  }
  if (reply.things || reply.gone || reply.whole) names();
  clock.tick();
}

/** Whether the ones that were asked for shall be done anyway. */
function confirm(words) {
  const yes = document.createElement("button");
  yes.textContent = "go anyway";
  yes.onclick = () => { clock.anyway(); yes.parentElement.remove(); };
  say(words, yes);
}

let listed = 0;
function names() {
  clearTimeout(listed);
  listed = setTimeout(() => {
    const all = [...world.byName.keys()].sort();
    $("names").replaceChildren(...all.map((name) => new Option(name)));
  }, 300);
}

// One message at a time: the world is never asked faster than it answers.
let socket, seen = 0, waiting = false;
function connect() {
  socket = new WebSocket(new URL("socket", location.href.replace(/^http/, "ws")));
  socket.onopen = () => { seen = 0; waiting = false; poll(); };
  socket.onmessage = (event) => {
    waiting = false;
    const reply = JSON.parse(event.data);
    seen = reply.seen;
    if (seen) put(reply);
    if (document.hidden) setTimeout(poll, 250);
  };
  socket.onclose = (event) => {
    const why = event.reason || "the world does not answer";
    $("state").textContent = `${why}; asking again`;
    $("state").classList.add("bad");
    setTimeout(connect, 1500);
  };
}
function poll() {
  if (waiting || socket.readyState !== WebSocket.OPEN) return;
  waiting = true;
  const message = { seen };
  const asks = take(64);
  if (asks.length) message.ask = asks;
  socket.send(JSON.stringify(message));
}
function draw(now) {
  poll();
  ground.draw(now);
  clock.draw();
  requestAnimationFrame(draw);
}

const themes = matchMedia("(prefers-color-scheme: dark)");
const theme = (dark) => { document.documentElement.dataset.theme = dark ? "dark" : "light"; ground.inks(); clock.inks(); };
theme(themes.matches);
$("theme").onclick = () => theme(document.documentElement.dataset.theme !== "dark");
$("took-away").onclick = () => { $("took").hidden = true; };
$("restart").onclick = () => ask({ do: "restart" });
$("steer").onclick = () => ask({ do: "steer" });
$("help").onclick = () => $("keys").showModal();
$("away").onclick = () => { $("beside").hidden = true; };
$("choose").onchange = (event) => {
  const name = event.target.value.trim();
  event.target.value = "";
  if (name) choose(name);
};
$("join").onclick = () => {
  const taken = (world.state?.players ?? []).map((player) => player.name);
  const name = ["ada", "bob", "cid", "dot", "eve", "fay", "gus", "hal"].find((name) => !taken.includes(name)) ?? `walker_${taken.length + 1}`;
  ask({ do: "join", name, spot: ground.spotNearby() });
};
const typed = { lines: [], at: 0 };
$("typed").onsubmit = (event) => {
  event.preventDefault();
  const text = $("line").value.trim();
  if (!text) return;
  ask({ do: "line", who: world.player, text });
  typed.lines.push(text);
  typed.at = typed.lines.length;
  $("line").value = "";
};
$("line").onkeydown = (event) => {
  const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  if (!step) return;
  event.preventDefault();
  typed.at = Math.max(0, Math.min(typed.lines.length, typed.at + step));
  $("line").value = typed.lines[typed.at] ?? "";
};
connect();
requestAnimationFrame(draw);
