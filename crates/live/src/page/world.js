// What the page knows of the world, what it asks for, and what it says.

const $ = (id) => document.getElementById(id);

/** What the page knows of the world. */
export const world = {
  tick: 0, scenes: [], things: new Map(), byName: new Map(), tape: [], state: null, steers: false, player: null, chosen: null,
  thingOf(name) { return this.byName.get(name); },
  me() { return this.state?.players.find((player) => player.name === this.player) ?? null; },
};

const asks = [];
/** What is asked for with the next message. */
export const take = (most) => asks.splice(0, most);
/** Asks for something, with the next message. */
export const ask = (what) => asks.push(what);

let told = 0;
/** Says something to who does not see the page; not more than a few things a second. */
export const tell = (words) => {
  const now = performance.now();
  if (now - told > 400) { $("told").textContent = words; told = now; }
};

/** Shows some words for a while, below those that are shown already. */
export const say = (words, button) => {
  const line = document.createElement("p");
  line.textContent = words;
  if (button) line.append(button);
  $("said").append(line);
  while ($("said").children.length > 4) $("said").firstElementChild.remove();
  setTimeout(() => line.remove(), button ? 12_000 : 5_000);
};

const heard = { chosen: [], leaves: [], plays: [] };
/** Hears when something is chosen, when a player is left, and when another one is played. */
export const hear = (what, hears) => heard[what].push(hears);

/** Chooses something by name; nothing: no more. */
export const choose = (name) => {
  world.chosen = name || null;
  ask({ do: "choose", what: world.chosen });
  heard.chosen.forEach((hears) => hears());
  if (name) tell(`${name} is chosen`);
};

/** Which player this page moves. */
export const play = (name) => {
  if (world.player === name) return;
  heard.leaves.forEach((hears) => hears());
  world.player = name;
  heard.plays.forEach((hears) => hears());
  if (name) tell(`you are ${name}`);
};
