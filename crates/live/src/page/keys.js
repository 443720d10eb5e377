// Keys: walking, answering prompts, choosing, and time.
import { world, ask, choose, play, tell } from "./world.js";

const $ = (id) => document.getElementById(id);
const WAYS = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0], KeyW: [0, -1], KeyS: [0, 1], KeyA: [-1, 0], KeyD: [1, 0] };

export class Keys {
  constructor(ground, clock) {
    this.ground = ground;
    this.clock = clock;
    this.down = new Set();
    this.way = [0, 0];
    this.held = null;
    this.near = 0;
    addEventListener("keydown", (event) => this.pressed(event));
    addEventListener("keyup", (event) => this.released(event));
    addEventListener("blur", () => this.stop());
    document.addEventListener("visibilitychange", () => { if (document.hidden) this.stop(); });
  }

  /** Whether what has the focus takes the key for itself. */
  typing(event) {
    const on = event.target;
    if (event.key === "Escape") return false;
    if (["INPUT", "SELECT", "TEXTAREA"].includes(on.tagName) && on.type !== "checkbox") return true;
    if ($("keys").open || $("made").open) return true;
    // Lists are gone through with the arrows, and buttons are pressed with Enter and the space bar.
    if (on.id !== "map" && on !== document.body) return event.key.startsWith("Arrow") || event.key === "Enter" || event.key === " ";
    return false;
  }

  pressed(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || this.typing(event)) return;
    const way = WAYS[event.code];
    if (way) {
      event.preventDefault();
      if (!event.repeat) { this.down.add(event.code); this.walk(); }
      return;
    }
    if (event.repeat && event.key !== "," && event.key !== ".") { if (event.code === "KeyE") event.preventDefault(); return; }
    const number = Number(event.key);
    const players = world.state?.players ?? [];
    if (number >= 1 && number <= 9) { if (players[number - 1]) play(players[number - 1].name); return; }
    const done = {
      KeyE: () => this.hold(),
      KeyF: () => this.follow(players),
      KeyC: () => this.nearest(),
      KeyP: () => this.clock.hold(!world.state?.paused),
      KeyL: () => $("latest").click(),
      KeyM: () => $("make").click(),
      KeyR: () => { if (!$("restart").hidden) ask({ do: "restart" }); },
      Escape: () => { choose(null); $("beside").hidden = $("took").hidden = true; $("map").focus(); },
    }[event.code] ?? {
      ",": () => this.clock.wind(world.tick - 1),
      ";": () => this.clock.wind(world.tick - 2 * this.clock.rate()),
      "<": () => this.clock.wind(world.tick - 2 * this.clock.rate()),
      ".": () => ask({ do: "step" }),
      "/": () => $("choose").focus(),
      ":": () => $("line").focus(),
      "?": () => $("keys").showModal(),
      "+": () => this.ground.zoom(1.25), "=": () => this.ground.zoom(1.25), "-": () => this.ground.zoom(0.8), 0: () => this.ground.fit(),
    }[event.key];
    if (done) { event.preventDefault(); done(); }
  }

  released(event) {
    if (this.down.delete(event.code)) this.walk();
    if (event.code === "KeyE") this.letGo();
  }

  /** The player goes where the keys that are down say. */
  walk() {
    const sum = [0, 0];
    for (const code of this.down) { sum[0] += WAYS[code][0]; sum[1] += WAYS[code][1]; }
    const along = sum.map(Math.sign);
    if (!world.player || (along[0] === this.way[0] && along[1] === this.way[1])) return;
    this.way = along;
    this.ground.following = true;
    ask({ do: "walk", who: world.player, along });
  }

  /** The key of the prompt that is offered is down. */
  hold() {
    if (!world.player) return;
    const key = world.me()?.offer?.key ?? "use";
    this.held = { who: world.player, key };
    ask({ do: "key", ...this.held, down: true });
  }

  letGo() {
    if (!this.held) return;
    ask({ do: "key", ...this.held, down: false });
    this.held = null;
  }

  /** Nothing is held any more: the page is left, or another player is played. */
  stop() {
    this.letGo();
    this.down.clear();
    this.walk();
  }

  follow(players) {
    const others = players.filter((player) => player.name !== world.player);
    const all = others.length > 0 && others.every((player) => player.follows === world.player);
    for (const other of others) ask({ do: "follow", who: other.name, whom: all ? null : world.player });
    tell(all ? "nobody follows" : `the others follow ${world.player}`);
  }

  /** Chooses what is nearest, and the next one when it is asked again. */
  nearest() {
    const near = this.ground.nearest();
    if (!near.length) return;
    const at = near.findIndex((thing) => thing.of === world.chosen);
    choose(near[(at + 1) % Math.min(near.length, 12)].of);
  }
}
