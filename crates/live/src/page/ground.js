// The ground: the map of a scene, drawn at the display's rate between the ticks.
import { world, ask, choose } from "./world.js";

/** How long what has just happened is lit, in milliseconds. */
const LIT = 900;
/** How long words of an effect are seen, in milliseconds. */
const WORDS = 2400;
/** Of more things than that, names say no more. */
const MANY = 200;
/** Of more bodies than that, names are seen only from near. */
const CROWD = 60;
/** Farther than that in one tick, a body was put there and does not glide. */
const LEAP = 1.5;

const LIGHT = {
  ground: "#f9f6ee", grid: "#ece6d8", text: "#2b3a3f", halo: "#fdfbf5", player: "#b23a48", me: "#8c2534", body: "#33658a", thing: "#6b705c", chosen: "#8c2534",
  lit: "#e0a458", words: "#2f6f9f", bubble: "#fdfbf5",
  zone: ["#9cc5c9", 0.35, "#4f8a90"], occupied: ["#e0a458", 0.6, "#a8641b"], solid: ["#a39b8b", 0.6, "#6f6858"], cell: ["#dfe8c8", 0.5, "#a3b37a"],
  reach: [null, 0, "#7b6aa8"], leaf: [null, 0, "#5a3d1e"], swing: [null, 0, "#b08d57"], push: [null, 0, "#2f7d5b"], sends: [null, 0, "#a2467d"],
  spot: [null, 0, "#a2467d"], looks: [null, 0, "#b23a48"], bodyshape: ["#33658a", 0.25, "#33658a"],
};
const DARK = {
  ground: "#171d1f", grid: "#20282b", text: "#dfe6e4", halo: "#14191b", player: "#f07a86", me: "#ff8f9c", body: "#7fb0d8", thing: "#b3b79c", chosen: "#ff8f9c",
  lit: "#f0b566", words: "#8fcbf5", bubble: "#222b2e",
  zone: ["#4f8a90", 0.3, "#7fb9bf"], occupied: ["#c07b2e", 0.5, "#f0b566"], solid: ["#6f6858", 0.5, "#a39b8b"], cell: ["#4c5a34", 0.5, "#8a9a60"],
  reach: [null, 0, "#a596d6"], leaf: [null, 0, "#d9a86a"], swing: [null, 0, "#a8865a"], push: [null, 0, "#63c096"], sends: [null, 0, "#d585b8"],
  spot: [null, 0, "#d585b8"], looks: [null, 0, "#f07a86"], bodyshape: ["#7fb0d8", 0.25, "#7fb0d8"],
};
const WIDTHS = { leaf: 4, push: 2.5, spot: 1.6, sends: 1.4, looks: 1.6, swing: 1.2 };
const DASHES = { reach: [2, 4], swing: [5, 3], sends: [8, 4] };

export class Ground {
  constructor(canvas, buttons) {
    this.canvas = canvas;
    this.paper = canvas.getContext("2d");
    this.buttons = buttons;
    this.scene = null;
    this.view = { x: 0, y: 0, scale: 20 };
    this.following = true;
    this.fitted = null;
    this.glow = new Map();
    this.words = [];
    this.looks = 0;
    this.says = 0;
    this.fixed = [];
    canvas.onpointerdown = (event) => this.down(event);
    canvas.onpointermove = (event) => this.move(event);
    canvas.onpointerup = (event) => this.up(event);
    canvas.onwheel = (event) => { event.preventDefault(); this.zoom(Math.exp(-event.deltaY * 0.0015), this.spotOf(event)); };
    canvas.oncontextmenu = (event) => { event.preventDefault(); this.pick(this.spotOf(event), true); };
  }

  inks() { this.ink = document.documentElement.dataset.theme === "dark" ? DARK : LIGHT; }
  clear() { this.glow.clear(); this.words = []; this.looks += 1; this.says += 1; }
  /** Something is gone. */
  gone() { this.looks += 1; this.says += 1; }

  /** A thing looks otherwise: it glides from where it was. */
  took(thing, before) {
    if (!isLoose(thing)) { this.looks += 1; if (!before || this.label(before) !== this.label(thing)) this.says += 1; }
    if (before && before.scene === thing.scene && before.shown) { thing.shown = before.shown; thing.from = before.shown; thing.since = performance.now(); this.leap(thing); }
  }
  moved(thing, at) { if (!isLoose(thing)) { thing.at = at; this.looks += 1; this.says += 1; return; } thing.from = thing.shown ?? thing.at; thing.at = at; thing.since = performance.now(); this.leap(thing); }
  leap(thing) { if (Math.hypot(thing.at[0] - thing.from[0], thing.at[1] - thing.from[1]) > LEAP) thing.from = thing.at; }

  scenes() {
    this.looks += 1;
    this.says += 1;
    const named = world.scenes.map((scene, number) => ({ ...scene, number })).filter((scene) => scene.name);
    this.buttons.hidden = named.length < 2;
    this.buttons.replaceChildren(...named.map((scene) => {
      const button = document.createElement("button");
      button.textContent = scene.name;
      button.dataset.scene = scene.number;
      button.onclick = () => { this.following = false; this.show(scene.number); };
      return button;
    }));
    this.scene ??= named[0]?.number ?? 0;
    this.mark();
  }
  mark() { for (const button of this.buttons.children) button.setAttribute("aria-pressed", Number(button.dataset.scene) === this.scene); }
  show(scene) { if (this.scene !== scene) { this.scene = scene; this.fitted = null; this.mark(); } }
  follow() { this.following = true; }

  /** Everything that is in the scene that is seen. */
  *here() {
    for (const thing of world.things.values()) {
      if (thing.scene === this.scene || !world.scenes[thing.scene]?.name) yield thing;
    }
  }

  /** What lights up is what has just happened; effects are words where they happen. */
  lit(lines) {
    const now = performance.now();
    for (const line of lines) {
      if (line.event === "key" || line.event === "set_out" || line.event === "arrived") continue;
      for (const number of line.lit ?? []) this.glow.set(number, now);
      if (line.event === "performed") {
        const [number] = line.lit ?? [];
        this.words.push({ number, text: line.text.replace(/^perform /, ""), since: now, from: world.things.get(number)?.at });
      }
    }
    if (this.words.length > 24) this.words.splice(0, this.words.length - 24);
  }

  chosen() { this.view.moved = true; }

  fit() {
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
    const take = (x, y) => { left = Math.min(left, x); right = Math.max(right, x); top = Math.min(top, y); bottom = Math.max(bottom, y); };
    for (const thing of this.here()) {
      if (thing.dot || thing.marks) take(...thing.at);
      for (const mark of thing.marks ?? []) {
        for (let at = 0; at < mark.points.length; at += 2) {
          const [x, y, r] = [thing.at[0] + mark.points[at], thing.at[1] + mark.points[at + 1], mark.radius ?? 0];
          take(x - r, y - r); take(x + r, y + r);
        }
      }
    }
    if (left > right) [left, top, right, bottom] = [-5, -5, 5, 5];
    const [width, height] = [this.canvas.clientWidth || 800, this.canvas.clientHeight || 600];
    const scale = Math.min((width - 90) / Math.max(4, right - left), (height - 90) / Math.max(4, bottom - top), 60);
    this.view = { x: (left + right) / 2, y: (top + bottom) / 2, scale };
    this.whole = { left, top, right, bottom };
  }

  zoom(times, at) {
    const view = this.view;
    const scale = Math.max(1.5, Math.min(200, view.scale * times));
    const [px, py] = at ?? [this.canvas.clientWidth / 2, this.canvas.clientHeight / 2];
    const [x, y] = this.place([px, py]);
    this.view = { ...view, scale };
    const [nx, ny] = this.place([px, py]);
    this.view.x += x - nx; this.view.y += y - ny;
  }

  /** From the canvas to the ground, and back. */
  place([px, py]) {
    const { x, y, scale } = this.view;
    return [x + (px - this.canvas.clientWidth / 2) / scale, y + (py - this.canvas.clientHeight / 2) / scale];
  }
  paperOf([x, y]) {
    const view = this.view;
    return [(x - view.x) * view.scale + this.canvas.clientWidth / 2, (y - view.y) * view.scale + this.canvas.clientHeight / 2];
  }
  spotOf(event) { const box = this.canvas.getBoundingClientRect(); return [event.clientX - box.left, event.clientY - box.top]; }

  down(event) { if (event.button !== 0) return; this.canvas.setPointerCapture(event.pointerId); this.pressed = { at: this.spotOf(event), view: { ...this.view }, far: false }; }
  move(event) {
    const at = this.spotOf(event);
    if (this.pressed) {
      const [dx, dy] = [at[0] - this.pressed.at[0], at[1] - this.pressed.at[1]];
      if (Math.hypot(dx, dy) > 5) this.pressed.far = true;
      if (this.pressed.far) { this.following = false; this.view.x = this.pressed.view.x - dx / this.view.scale; this.view.y = this.pressed.view.y - dy / this.view.scale; }
      return;
    }
    const over = this.over(at, event.shiftKey);
    this.canvas.classList.toggle("over", Boolean(over));
    this.canvas.title = over?.of ?? "";
  }
  up(event) {
    const pressed = this.pressed;
    this.pressed = null;
    if (pressed && !pressed.far) this.pick(this.spotOf(event), event.shiftKey);
  }

  /** A click: what can be picked is pointed at, a name or a dot is chosen, and to the open ground one walks. */
  pick(at, looks) {
    const over = this.over(at, looks);
    const to = this.place(at);
    if (over && !looks && over.parts?.includes("pick") && world.player) {
      ask({ do: "point", who: world.player, at: over.of, to, button: "primary" });
      return;
    }
    if (over) choose(over.of);
    else if (!looks && world.player) { this.following = true; ask({ do: "go", who: world.player, to }); }
  }

  /** What is under a place of the canvas: with `all` also areas that one walks on. */
  over(at, all) {
    const label = (this.labels ?? []).find(({ box }) => at[0] >= box[0] && at[0] <= box[2] && at[1] >= box[1] && at[1] <= box[3]);
    if (label) return label.thing;
    const [x, y] = this.place(at);
    let best = null;
    for (const thing of this.here()) {
      const [px, py] = this.paperOf(thing.shown ?? thing.at);
      const near = Math.hypot(px - at[0], py - at[1]);
      if ((thing.dot || thing.marks?.some((mark) => mark.style === "spot")) && near < 11) best = closer(best, thing, near);
      for (const mark of thing.marks ?? []) {
        if (!thing.of) continue;
        const points = around(thing, mark);
        if (mark.style === "leaf" && nearLine(points.map((point) => this.paperOf(point)), at) < 8) best = closer(best, thing, 5);
        const walked = mark.style === "zone" || mark.style === "occupied";
        const picked = thing.parts?.includes("pick") && mark.form === "area";
        if (mark.form === "area" && (picked || (all && (walked || mark.style === "solid"))) && within(points, [x, y])) best = closer(best, thing, 20 + sizeOf(points));
      }
    }
    return best?.thing ?? null;
  }

  /** Things with a name, the nearest to the player first. */
  nearest() {
    const from = world.things.get(world.me()?.thing)?.at ?? [this.view.x, this.view.y];
    const away = (thing) => Math.hypot(thing.at[0] - from[0], thing.at[1] - from[1]);
    return [...this.here()].filter((thing) => thing.of && thing.of !== world.player).sort((one, two) => away(one) - away(two));
  }

  /** The spot at which a player may join. */
  spotNearby() {
    const spots = this.nearest().filter((thing) => thing.marks?.some((mark) => mark.style === "spot"));
    return spots[0]?.of ?? null;
  }

  draw(now) {
    const { canvas, paper } = this;
    const dots = devicePixelRatio || 1;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    if (!width) return;
    if (canvas.width !== Math.round(width * dots) || canvas.height !== Math.round(height * dots)) { canvas.width = Math.round(width * dots); canvas.height = Math.round(height * dots); }
    const mine = world.me();
    if (this.following && mine?.scene !== undefined && mine.scene !== null && world.scenes[mine.scene]?.name) this.show(mine.scene);
    if (this.fitted !== this.scene && world.things.size) { this.fit(); this.fitted = this.scene; }
    this.glide(now);
    if (this.following) this.keepInView(world.things.get(mine?.thing));
    this.still(width, height, dots);
    paper.setTransform(1, 0, 0, 1, 0, 0);
    paper.drawImage(this.layer.sheet, 0, 0);
    paper.setTransform(dots, 0, 0, dots, 0, 0);
    const loose = [...this.here()].filter(isLoose);
    for (const thing of loose) this.marks(thing);
    this.lights(now);
    paper.setTransform(1, 0, 0, 1, 0, 0);
    paper.drawImage(this.named.sheet, 0, 0);
    paper.setTransform(dots, 0, 0, dots, 0, 0);
    for (const thing of loose) this.dot(thing, mine);
    this.labels = [...this.fixed];
    this.names(loose, mine);
    this.offer(mine);
    this.say(now);
  }

  /** What stands still is drawn once, until it looks otherwise or is seen from elsewhere; and its names, which take longest, by themselves. */
  still(width, height, dots) {
    const { x, y, scale } = this.view;
    const seen = [x, y, scale, this.scene, width, height, dots, this.ink === DARK].join(" ");
    const things = () => [...this.here()].filter((thing) => !isLoose(thing));
    this.layer = this.layered(this.layer, `${seen} ${this.looks}`, dots, () => {
      this.paper.fillStyle = this.ink.ground;
      this.paper.fillRect(0, 0, width, height);
      this.grid(width, height);
      const size = (thing) => Math.max(0, ...(thing.marks ?? []).map((mark) => mark.radius ?? sizeOf(around(thing, mark))));
      const order = things().map((thing) => [thing.size ??= size(thing), thing]).sort((one, two) => two[0] - one[0]);
      for (const [, thing] of order) this.marks(thing);
      for (const [, thing] of order) if (thing.dot) this.dot(thing, null);
    });
    this.named = this.layered(this.named, `${seen} ${this.says} ${world.chosen}`, dots, () => {
      this.paper.clearRect(0, 0, width, height);
      this.labels = [];
      this.names(things(), null);
      this.fixed = this.labels;
    });
  }

  /** A layer that is drawn when its key is another than before. */
  layered(layer, key, dots, draw) {
    const { canvas, paper } = this;
    const sheet = layer?.sheet ?? document.createElement("canvas");
    if (layer?.key === key) return layer;
    if (sheet.width !== canvas.width || sheet.height !== canvas.height) { sheet.width = canvas.width; sheet.height = canvas.height; }
    this.paper = sheet.getContext("2d");
    this.paper.setTransform(dots, 0, 0, dots, 0, 0);
    draw();
    this.paper = paper;
    return { sheet, key };
  }

  /** Things that moved are shown between where they were and where they are. */
  glide(now) {
    const tick = 1000 / (world.state?.rate ?? 30) / Math.min(1, world.state?.times ?? 1);
    for (const thing of world.things.values()) {
      if (!isLoose(thing)) continue;
      const part = thing.since === undefined ? 1 : Math.min(1, (now - thing.since) / tick);
      const from = thing.from ?? thing.at;
      thing.shown = [from[0] + (thing.at[0] - from[0]) * part, from[1] + (thing.at[1] - from[1]) * part];
    }
  }

  keepInView(thing) {
    if (!thing?.shown) return;
    const [px, py] = this.paperOf(thing.shown);
    const [width, height] = [this.canvas.clientWidth, this.canvas.clientHeight];
    const edge = Math.min(width, height) * 0.16;
    const off = (at, size) => at < edge ? at - edge : at > size - edge ? at - (size - edge) : 0;
    this.view.x += off(px, width) / this.view.scale * 0.2;
    this.view.y += off(py, height) / this.view.scale * 0.2;
  }

  grid(width, height) {
    const { paper, view } = this;
    const step = [1, 2, 5, 10, 20, 50, 100].find((step) => step * view.scale >= 34) ?? 200;
    const [left, top] = this.place([0, 0]);
    const [right, bottom] = this.place([width, height]);
    paper.strokeStyle = this.ink.grid;
    paper.lineWidth = 1;
    paper.beginPath();
    for (let x = Math.ceil(left / step) * step; x <= right; x += step) { const [px] = this.paperOf([x, 0]); paper.moveTo(px, 0); paper.lineTo(px, height); }
    for (let y = Math.ceil(top / step) * step; y <= bottom; y += step) { const [, py] = this.paperOf([0, y]); paper.moveTo(0, py); paper.lineTo(width, py); }
    paper.stroke();
    const unit = step * view.scale;
    paper.fillStyle = this.ink.text;
    paper.globalAlpha = 0.7;
    paper.fillRect(14, height - 16, unit, 2);
    paper.font = "11px system-ui, sans-serif";
    paper.textAlign = "left";
    paper.fillText(`${step} ${step === 1 ? "unit" : "units"}`, 18 + unit, height - 12);
    paper.globalAlpha = 1;
  }

  marks(thing) {
    const { paper, view } = this;
    for (const mark of thing.marks ?? []) {
      // What would be smaller than its dot is not seen.
      if (thing.dot && mark.form === "area" && (mark.wide ??= wideOf(mark)) * view.scale < 8) continue;
      const [fill, alpha, edge] = this.ink[mark.style === "body" ? "bodyshape" : mark.style] ?? [null, 0, this.ink.text];
      const faint = thing.faint || mark.faint ? 0.3 : 1;
      const points = around(thing, mark, true).map((point) => this.paperOf(point));
      paper.beginPath();
      if (mark.form === "circle") paper.arc(points[0][0], points[0][1], Math.max(2.5, mark.radius * view.scale), 0, Math.PI * 2);
      else points.forEach(([x, y], at) => (at ? paper.lineTo(x, y) : paper.moveTo(x, y)));
      if (mark.form === "area") paper.closePath();
      if (fill) { paper.globalAlpha = alpha * faint; paper.fillStyle = fill; paper.fill(); }
      paper.globalAlpha = faint;
      paper.strokeStyle = edge;
      paper.lineWidth = WIDTHS[mark.style] ?? 1.2;
      paper.setLineDash(DASHES[mark.style] ?? []);
      paper.stroke();
      paper.setLineDash([]);
      if (mark.form === "arrow" && points.length > 1) this.head(points.at(-2), points.at(-1), edge);
      paper.globalAlpha = 1;
    }
  }

  head([fx, fy], [tx, ty], ink) {
    const { paper } = this;
    const angle = Math.atan2(ty - fy, tx - fx);
    paper.fillStyle = ink;
    paper.beginPath();
    paper.moveTo(tx, ty);
    for (const turn of [2.7, -2.7]) paper.lineTo(tx + 9 * Math.cos(angle + turn), ty + 9 * Math.sin(angle + turn));
    paper.fill();
  }

  /** A glow around what has just happened, and a line around what is chosen. */
  lights(now) {
    const isHere = (thing) => thing && (thing.scene === this.scene || !world.scenes[thing.scene]?.name);
    for (const [number, since] of this.glow) {
      const part = (now - since) / LIT;
      const thing = world.things.get(number);
      if (part >= 1) this.glow.delete(number);
      else if (isHere(thing)) this.outline(thing, this.ink.lit, 9 * (1 - part) + 1, 0.75 * (1 - part));
    }
    if (!world.chosen) return;
    let chosen = world.byName.get(world.chosen);
    for (let name = world.chosen; !chosen && name.includes("."); ) { name = name.slice(0, name.lastIndexOf(".")); chosen = world.byName.get(name); }
    if (isHere(chosen)) this.outline(chosen, this.ink.chosen, 2.5, 1);
  }

  outline(thing, ink, width, alpha) {
    const { paper } = this;
    paper.globalAlpha = alpha;
    paper.strokeStyle = ink;
    paper.lineWidth = width;
    const areas = (thing.marks ?? []).filter((mark) => mark.form === "area" || mark.style === "leaf");
    paper.beginPath();
    for (const mark of areas) {
      around(thing, mark, true).map((point) => this.paperOf(point)).forEach(([x, y], at) => (at ? paper.lineTo(x, y) : paper.moveTo(x, y)));
      if (mark.form === "area") paper.closePath();
    }
    if (!areas.length || thing.dot) { const [x, y] = this.paperOf(thing.shown ?? thing.at); paper.moveTo(x + 13, y); paper.arc(x, y, 13, 0, Math.PI * 2); }
    paper.stroke();
    paper.globalAlpha = 1;
  }

  dot(thing, mine) {
    const { paper } = this;
    const [x, y] = this.paperOf(thing.shown ?? thing.at);
    const me = thing.number === mine?.thing;
    paper.globalAlpha = thing.faint ? 0.4 : 1;
    paper.fillStyle = thing.dot === "player" ? (me ? this.ink.me : this.ink.player) : this.ink[thing.dot];
    paper.beginPath();
    if (thing.dot === "thing") paper.rect(x - 3, y - 3, 6, 6);
    else paper.arc(x, y, thing.dot === "player" ? 7 : 4, 0, Math.PI * 2);
    paper.fill();
    if (thing.dot === "player") { paper.strokeStyle = this.ink.halo; paper.lineWidth = 1.5; paper.stroke(); }
    if (me) { paper.strokeStyle = this.ink.me; paper.lineWidth = 1.5; paper.beginPath(); paper.arc(x, y, 10.5, 0, Math.PI * 2); paper.stroke(); }
    paper.globalAlpha = 1;
  }

  /** The name of a thing, with the state it is in and how many are inside: of a crowd only the name. */
  label(thing) { return world.things.size > MANY ? thing.name : [thing.name, thing.state, thing.inside].filter(Boolean).join(" · "); }

  /** Names, where they cover no other: players first, then what is chosen, then the rest. */
  names(things, mine) {
    const { paper } = this;
    paper.font = "12px system-ui, sans-serif";
    paper.textAlign = "center";
    paper.lineJoin = "round";
    const rank = (thing) => (thing.number === mine?.thing ? 5 : thing.dot === "player" ? 4 : thing.of === world.chosen ? 3 : thing.parts?.length ? 2 : thing.dot ? 1 : 0);
    const named = things.filter((thing) => thing.name && (thing.dot || thing.marks)).map((thing) => [rank(thing), thing]);
    named.sort((one, two) => two[0] - one[0] || one[1].number - two[1].number);
    // Of many bodies only those that are seen from near have names.
    const crowd = named.length > CROWD && this.view.scale < 12;
    for (const [rank, thing] of named) {
      if (crowd && isLoose(thing) && rank < 3) continue;
      const text = this.label(thing);
      const width = (thing.width?.[0] === text ? thing.width : (thing.width = [text, paper.measureText(text).width]))[1];
      const [x, y] = this.paperOf(thing.shown ?? thing.at);
      if (x < -60 || y < -40 || x > this.canvas.clientWidth + 60 || y > this.canvas.clientHeight + 40) continue;
      // In the middle of what has room for it, and otherwise below.
      const roomy = (thing.marks ?? []).some((mark) => mark.form === "area" && (mark.wide ??= wideOf(mark)) * this.view.scale > 70);
      const below = thing.dot === "player" ? 22 : roomy ? 4 : 18;
      const box = [x - width / 2 - 2, y + below - 11, x + width / 2 + 2, y + below + 3];
      if (rank < 4 && this.labels.some((other) => box[0] < other.box[2] && box[2] > other.box[0] && box[1] < other.box[3] && box[3] > other.box[1])) continue;
      this.labels.push({ box, thing });
      paper.globalAlpha = thing.faint ? 0.5 : 1;
      paper.strokeStyle = this.ink.halo;
      paper.lineWidth = 3;
      paper.strokeText(text, x, y + below);
      paper.fillStyle = thing.dot === "player" ? this.ink.me : thing.of === world.chosen ? this.ink.chosen : this.ink.text;
      paper.fillText(text, x, y + below);
      paper.globalAlpha = 1;
    }
  }

  /** What the player is offered: beside them, with how long the key has been held. */
  offer(mine) {
    if (!mine?.offer) return;
    const thing = world.things.get(mine.thing);
    if (!thing || (thing.scene !== this.scene && world.scenes[thing.scene]?.name)) return;
    const { paper } = this;
    const [x, y] = this.paperOf(thing.shown ?? thing.at);
    const text = `E  ${mine.offer.label}`;
    paper.font = "600 13px system-ui, sans-serif";
    const width = paper.measureText(text).width + 22;
    const [left, top] = [Math.min(Math.max(8, x - width / 2), this.canvas.clientWidth - width - 8), y - 46];
    this.bubble(left, top, width, 25, this.ink.me);
    if (mine.held !== undefined) {
      paper.save();
      paper.beginPath(); paper.roundRect(left, top, width, 25, 8); paper.clip();
      paper.globalAlpha = 0.35; paper.fillStyle = this.ink.lit; paper.fillRect(left, top, width * mine.held, 25);
      paper.restore();
    }
    paper.fillStyle = this.ink.text;
    paper.textAlign = "left";
    paper.fillText(text, left + 11, top + 17);
  }

  bubble(left, top, width, height, edge) {
    const { paper } = this;
    paper.fillStyle = this.ink.bubble;
    paper.strokeStyle = edge;
    paper.lineWidth = 1.4;
    paper.beginPath();
    paper.roundRect(left, top, width, height, 8);
    paper.fill();
    paper.stroke();
  }

  /** Effects, in words, where they happen. */
  say(now) {
    const { paper } = this;
    this.words = this.words.filter((word) => now - word.since < WORDS);
    paper.font = "italic 13px system-ui, sans-serif";
    const above = new Map();
    for (const word of [...this.words].reverse()) {
      const thing = world.things.get(word.number);
      if (thing && thing.scene !== this.scene && world.scenes[thing.scene]?.name) continue;
      const at = thing?.shown ?? word.from;
      const key = word.number ?? -1;
      const up = above.get(key) ?? 0;
      above.set(key, up + 1);
      const [x, y] = at ? this.paperOf(at) : [this.canvas.clientWidth / 2, 90];
      const width = paper.measureText(word.text).width + 18;
      const top = y - 76 - up * 26 - ((now - word.since) / WORDS) * 10;
      const left = Math.min(Math.max(8, x - width / 2), this.canvas.clientWidth - width - 8);
      paper.globalAlpha = Math.min(1, (WORDS - (now - word.since)) / 500);
      this.bubble(left, top, width, 22, this.ink.words);
      paper.fillStyle = this.ink.words;
      paper.textAlign = "left";
      paper.fillText(word.text, left + 9, top + 15);
      paper.globalAlpha = 1;
    }
  }
}

/** Bodies are where the ticks take them; everything else is where it was put. */
function isLoose(thing) { return thing.dot === "player" || thing.dot === "body"; }

/** The points of a mark, where they are on the ground. */
function around(thing, mark, shown) {
  const [x, y] = (shown && thing.shown) || thing.at;
  const points = [];
  for (let at = 0; at < mark.points.length; at += 2) points.push([x + mark.points[at], y + mark.points[at + 1]]);
  return points;
}

/** How wide or tall a mark is at most, in scene units. */
function wideOf(mark) {
  const range = (from) => { const all = mark.points.filter((_, at) => at % 2 === from); return Math.max(...all) - Math.min(...all); };
  return Math.max(range(0), range(1));
}

function sizeOf(points) {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of points) { left = Math.min(left, x); right = Math.max(right, x); top = Math.min(top, y); bottom = Math.max(bottom, y); }
  return points.length ? (right - left) * (bottom - top) : 0;
}

function within(points, [x, y]) {
  let inside = false;
  for (let at = 0, before = points.length - 1; at < points.length; before = at++) {
    const [[ax, ay], [bx, by]] = [points[at], points[before]];
    if ((ay > y) !== (by > y) && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}

function nearLine(points, [x, y]) {
  let best = Infinity;
  for (let at = 1; at < points.length; at += 1) {
    const [[ax, ay], [bx, by]] = [points[at - 1], points[at]];
    const long = (bx - ax) ** 2 + (by - ay) ** 2;
    const part = long ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long)) : 0;
    best = Math.min(best, Math.hypot(x - ax - part * (bx - ax), y - ay - part * (by - ay)));
  }
  return best;
}

function closer(best, thing, near) { return !best || near < best.near ? { thing, near } : best; }
