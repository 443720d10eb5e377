// The tape: a line for each thing that happened, with the wires that took it or refused it inside.
import { beside } from "./beside.js";
import { world, choose } from "./world.js";

const $ = (id) => document.getElementById(id);
/** How many lines are on the page. */
const MOST = 400;
/** Records that are part of the line of their cause. */
const INSIDE = new Set(["took", "refused", "held"]);
const GLYPHS = { delivered: "●", performed: "✦", set: "=", kept: "=", shifted: "◐", key: "⌨", fault: "!", broken: "!", entered: "→", left: "←" };

export class Tape {
  constructor(list) {
    this.list = list;
    this.rows = new Map();
    this.wires = new Map();
    for (const id of ["about", "who", "refused", "effects"]) $(id).oninput = () => this.again();
    $("filter").onsubmit = (event) => event.preventDefault();
    list.onscroll = () => { this.atEnd = list.scrollTop + list.clientHeight > list.scrollHeight - 40; };
    list.onkeydown = (event) => this.key(event);
    this.atEnd = true;
  }

  clear() { this.rows.clear(); this.wires.clear(); this.list.replaceChildren(); this.last = null; this.count(); }

  cut(record) {
    for (const [number, row] of [...this.rows].reverse()) {
      if (number <= record) break;
      row.remove();
      this.rows.delete(number);
    }
    for (const [number, wires] of [...this.wires]) if (number > record) this.wires.delete(number); else this.wires.set(number, wires.filter((line) => line.n <= record));
    this.last = [...this.rows.values()].at(-1)?.line.tick ?? null;
    this.count();
  }

  again() { this.clear(); this.add(world.tape); }

  add(lines) {
    for (const line of lines) {
      if (INSIDE.has(line.event)) {
        const of = this.wires.get(line.cause) ?? [];
        of.push(line);
        this.wires.set(line.cause, of);
      }
    }
    const changed = new Set(lines.filter((line) => INSIDE.has(line.event)).map((line) => line.cause));
    const fresh = lines.filter((line) => !INSIDE.has(line.event) && this.shows(line)).slice(-MOST);
    const heads = fresh.map((line) => this.row(line));
    for (const number of changed) { const row = this.rows.get(number); if (row) this.tail(row); }
    this.list.append(...heads);
    while (this.list.children.length > MOST) { const first = this.list.firstElementChild; this.rows.delete(first.line.n); this.wires.delete(first.line.n); first.remove(); }
    if (this.wires.size > 4000) for (const number of [...this.wires.keys()].slice(0, 2000)) this.wires.delete(number);
    if (heads.length && this.atEnd) this.list.scrollTop = this.list.scrollHeight;
    this.count();
  }

  shows(line) {
    const about = $("about").value.trim();
    if (about && !(line.about?.includes(about) || line.wire?.includes(about) || line.text.includes(about))) return false;
    const who = $("who").value;
    if (who && line.who !== who && !this.by(line, who)) return false;
    if ($("effects").checked && line.event !== "performed") return false;
    if ($("refused").checked && !(this.wires.get(line.n) ?? []).some((wire) => wire.event === "refused")) return false;
    return true;
  }

  /** Whether somebody is behind a line. */
  by(line, who) {
    for (let at = this.find(line.cause), steps = 0; at && steps < 40; at = this.find(at.cause), steps += 1) if (at.who === who) return true;
    return false;
  }

  /** A record by its number: they are in order. */
  find(number) {
    const all = world.tape;
    if (!number || !all.length) return null;
    let [low, high] = [0, all.length - 1];
    while (low <= high) {
      const middle = (low + high) >> 1;
      if (all[middle].n === number) return all[middle];
      if (all[middle].n < number) low = middle + 1; else high = middle - 1;
    }
    return null;
  }

  row(line) {
    const row = document.createElement("div");
    row.line = line;
    const button = document.createElement("button");
    const cell = (kind, text) => { const span = document.createElement("span"); span.className = kind; span.textContent = text; return span; };
    const seconds = (line.tick / (world.state?.rate ?? 30)).toFixed(3);
    const fresh = line.tick !== this.last;
    this.last = line.tick;
    button.append(cell("at", fresh ? seconds : ""), cell("mark", GLYPHS[line.event] ?? "·"), cell("text", line.text), cell("tail", ""));
    button.setAttribute("aria-expanded", "false");
    button.onclick = () => this.open(row);
    row.append(button);
    this.rows.set(line.n, row);
    this.tail(row, fresh);
    return row;
  }

  tail(row, fresh = row.classList.contains("new-tick")) {
    const { line } = row;
    const wires = this.wires.get(line.n) ?? [];
    const taken = wires.filter((wire) => wire.event === "took").length;
    const refused = wires.filter((wire) => wire.event === "refused").length;
    const kind = line.event === "delivered" ? (taken ? "signal" : refused ? "signal refused" : "unheard") : line.event === "performed" ? "effect" : ["fault", "broken"].includes(line.event) ? "fault" : "";
    row.className = `line ${kind}${fresh ? " new-tick" : ""}${this.isChosen(line) ? " chosen" : ""}`;
    const words = [];
    if (line.event === "delivered") words.push(wires.length ? `${taken} of ${wires.length}` : "nobody");
    row.querySelector(".tail").textContent = words.join(" ");
    row.firstChild.title = line.event === "delivered" ? (wires.length ? `taken by ${taken} of ${wires.length} wires` : "nobody listens") : line.event;
  }

  isChosen(line) { const name = world.chosen; return Boolean(name) && (line.about === name || line.about?.startsWith(`${name}.`) || line.who === name || line.wire === name); }
  chosen() { for (const row of this.rows.values()) this.tail(row); }

  open(row) {
    const { line } = row;
    const before = row.querySelector(".open");
    row.firstChild.setAttribute("aria-expanded", String(!before));
    if (before) { before.remove(); return; }
    const box = document.createElement("div");
    box.className = "open";
    const link = (text, to, kind) => { const button = document.createElement("button"); button.className = kind; button.textContent = text; button.onclick = to; return button; };
    const wire = (record) => {
      const part = document.createElement("div");
      part.className = `wire${record.event === "refused" ? " no" : ""}`;
      const words = record.event === "took" ? `${record.wire} took it` : record.text;
      part.append(link(words, () => { choose(record.wire); beside(record.wire); }, "place"));
      return part;
    };
    for (const record of this.wires.get(line.n) ?? []) {
      box.append(wire(record));
      for (const led of world.tape) if (led.cause === record.n && !INSIDE.has(led.event)) { const what = document.createElement("div"); what.textContent = `   ${led.text}`; what.style.paddingLeft = "14px"; box.append(what); }
    }
    const chain = [];
    for (let at = this.find(line.cause), steps = 0; at && steps < 8; at = this.find(at.cause), steps += 1) chain.push(at);
    if (chain.length) {
      const causes = document.createElement("div");
      causes.className = "chain";
      for (const cause of chain) { const part = document.createElement("div"); part.className = "wire"; part.append(link(`after ${cause.event === "took" ? `${cause.wire} took it` : cause.text}`, () => (cause.wire ? beside(cause.wire) : choose(cause.about ?? cause.who)), "place")); causes.append(part); }
      box.append(causes);
    }
    if (!box.children.length) box.textContent = "an input of the host, or the clock";
    row.append(box);
    const about = line.about ?? line.who;
    if (about) choose(about);
    row.scrollIntoView({ block: "nearest" });
  }

  /** The arrow keys go from line to line. */
  key(event) {
    const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!step) return;
    event.preventDefault();
    const rows = [...this.list.children];
    const at = rows.findIndex((row) => row.contains(document.activeElement));
    const next = at < 0 ? rows.at(-1) : rows[Math.max(0, Math.min(rows.length - 1, at + step))];
    next?.firstChild.focus();
  }

  count() { const shown = this.list.children.length; $("shown").textContent = shown ? `the last ${shown} lines` : "nothing yet"; }
}
