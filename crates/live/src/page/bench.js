// The bench: what is chosen, as it is now, and what can be done to it.
import { beside } from "./beside.js";
import { world, ask, choose } from "./world.js";

const $ = (id) => document.getElementById(id);

export class Bench {
  constructor(box) { this.box = box; this.last = null; }

  chosen() {
    $("what").textContent = world.chosen ?? "click on something, or choose a name";
    this.last = null;
    if (!world.chosen) this.box.replaceChildren();
  }

  put({ what, seen, told, missing }) {
    if (what !== world.chosen) return;
    if (missing) { this.box.textContent = `nothing is named ${what} now`; return; }
    // A field that somebody types into stays as it is until they are done.
    const active = document.activeElement;
    if (this.box.contains(active) && active.tagName === "INPUT" && active.type !== "checkbox") { this.later = { what, seen, told }; return; }
    const focus = this.box.contains(active) ? active.dataset.key : null;
    const top = this.box.scrollTop;
    const groups = [];
    seen.objects.slice(0, 20).forEach((object, number) => this.object(groups, object, number === 0 && (object.name === what || object.name.endsWith(`.${what}`)) ? told : []));
    if (seen.variables.length) groups.push(group("variables", seen.variables.flatMap((variable) => this.variable(variable))));
    if (seen.waits.length) groups.push(group("waits", seen.waits.map((wait) => place(wait.wire, `${wait.signal}${wait.who ? `, ${wait.who}` : ""}${wait.due ? ` until ${wait.due.toFixed(2)} s` : wait.until ? ` until ${wait.until}` : ""}`))));
    if (seen.wires.length) groups.push(group("wires", seen.wires.slice(0, 60).map((wire) => this.wire(wire))));
    this.box.replaceChildren(...groups);
    this.box.scrollTop = top;
    if (focus) this.box.querySelector(`[data-key="${CSS.escape(focus)}"]`)?.focus();
  }

  object(groups, object, told) {
    const cells = [];
    cells.push(cell("where", `${words(object.at)}${object.scene ? ` in ${object.scene}` : ""}${object.parent ? `, on ${object.parent}` : ""}`));
    if (object.tags.length) cells.push(cell("tags", object.tags.join(", ")));
    const on = document.createElement("input");
    on.type = "checkbox"; on.checked = object.enabled; on.dataset.key = `${object.name} on`;
    on.onchange = () => ask({ do: "switch", object: object.name, on: on.checked });
    cells.push(cell("enabled", on));
    for (const variable of object.variables) cells.push(...this.variable(variable));
    for (const signal of object.signals) cells.push(this.signal(signal));
    groups.push(group(object.name, cells));
    object.parts.forEach((part, number) => {
      const rows = [];
      if (part.state) rows.push(cell("state", bold(part.state)));
      const commands = (told[number] ?? []).filter((command) => command.plain);
      if (commands.length) rows.push(cell("tell it to", ...commands.map((command) => {
        const button = document.createElement("button");
        button.className = "do"; button.textContent = command.name; button.title = command.about; button.dataset.key = `${object.name} ${number} ${command.name}`;
        button.onclick = () => ask({ do: "command", object: object.name, part: number, command: command.name });
        return button;
      })));
      for (const reading of part.readings) rows.push(cell(reading.of ? `${reading.name} of ${reading.of}` : reading.name, words(reading.value)));
      for (const setting of part.settings) rows.push(cell(setting.name, this.field(setting.value, (to) => ask({ do: "change", object: object.name, part: number, setting: setting.name, to }), `${object.name} ${number} ${setting.name}`)));
      if (part.inside.length) rows.push(cell("inside", part.inside.map((body) => `${body.name} since ${body.since.toFixed(2)} s`).join(", ")));
      if (part.acts_in !== null) rows.push(cell("acts in", `${part.acts_in.toFixed(2)} s`));
      for (const variable of part.variables) rows.push(...this.variable(variable));
      for (const signal of part.signals) rows.push(this.signal(signal));
      groups.push(group(part.kind, rows));
    });
  }

  variable(variable) {
    const name = variable.name;
    const set = (of) => (to) => ask({ do: "set", name, of, to });
    const short = name.split(".").at(-1);
    const one = (value, of) => cell(of ? `${short} of ${of}` : short, variable.bound ? words(value) : this.field(value, set(of), `${name} ${of}`));
    if (!variable.each) return [one(variable.value, null)];
    return variable.each.length ? variable.each.map((each) => one(each.value, each.of)) : [cell(short, `${words(variable.value)} for each player`)];
  }

  signal(signal) {
    const button = document.createElement("button");
    button.className = "do"; button.textContent = "send"; button.title = `Emit ${signal.name}`; button.dataset.key = `send ${signal.name}`;
    button.onclick = () => ask({ do: "emit", signal: signal.name, who: world.player });
    return cell(signal.name.split(".").at(-1), signal.delivered ? `came ${signal.delivered} ×` : "has not come", button);
  }

  wire(wire) {
    const limits = [wire.when && `when ${wire.when}`, ...wire.limits].filter(Boolean).join(", ");
    const counts = `${wire.taken} taken, ${wire.refused} refused${wire.asleep ? ", asleep" : ""}`;
    const leads = wire.leads_to.map((lead) => lead.text).join("; ");
    return place(wire.place, `${wire.signals.join(", ")}${limits ? ` ${limits}` : ""} → ${leads || "nothing seen"} · ${counts}`);
  }

  /** A field for a value, of its kind. What is no number, truth or text is only shown. */
  field(value, set, key) {
    if (typeof value === "boolean") {
      const box = document.createElement("input");
      box.type = "checkbox"; box.checked = value; box.dataset.key = key;
      box.onchange = () => set(box.checked);
      return box;
    }
    if (typeof value !== "number" && typeof value !== "string") return words(value);
    const box = document.createElement("input");
    box.type = "text"; box.value = String(value); box.dataset.key = key;
    box.inputMode = typeof value === "number" ? "decimal" : "text";
    const done = () => {
      const to = typeof value === "number" ? Number(box.value.replace(",", ".")) : box.value;
      if (to !== value && !Number.isNaN(to)) set(to); else if (Number.isNaN(to)) box.value = String(value);
    };
    box.onkeydown = (event) => { if (event.key === "Enter") { done(); box.blur(); } if (event.key === "Escape") { box.value = String(value); box.blur(); event.stopPropagation(); } };
    box.onblur = () => { const later = this.later; this.later = null; if (later) setTimeout(() => this.put(later), 0); };
    box.onchange = done;
    return box;
  }
}

function group(title, cells) {
  const box = document.createElement("div");
  box.className = "group";
  const head = document.createElement("b");
  head.textContent = title;
  box.append(head, ...cells);
  return box;
}

function cell(name, ...what) {
  const row = document.createElement("div");
  row.className = "cell";
  const label = document.createElement("label");
  label.className = "name";
  label.textContent = name;
  const field = what.find((part) => part instanceof HTMLInputElement);
  if (field) { field.id = `field ${field.dataset.key}`; label.htmlFor = field.id; }
  row.append(label, ...what);
  return row;
}

export function place(where, text) {
  const row = document.createElement("div");
  row.className = "cell";
  const button = document.createElement("button");
  button.className = "place"; button.style.flex = "none"; button.style.width = "auto"; button.textContent = where; button.dataset.key = `place ${where}`;
  button.onclick = () => { choose(where); beside(where); };
  row.append(button, text);
  return row;
}

function bold(text) { const element = document.createElement("b"); element.textContent = text; return element; }
function words(value) {
  if (Array.isArray(value)) return `(${value.map((number) => Number(number.toFixed(2))).join(", ")})`;
  if (value && typeof value === "object") return `${value.degrees}° about (${value.axis.join(", ")})`;
  return value === null ? "nothing" : String(value);
}
