"use strict";
(() => {
  const { records, film, pieces } = JSON.parse(document.getElementById("data").textContent);
  const { ticks, causes, about, who, words, things, values, changes } = records;
  const count = ticks.length;
  const at = (id) => document.getElementById(id);
  const make = (name, className, text) => {
    const element = document.createElement(name);
    if (className) element.className = className;
    if (text !== undefined) element.textContent = text;
    return element;
  };

  // Records have numbers from 1; 0 is none.
  const event = (record) => words[records.events[record - 1]];
  const phase = (record) => words[records.phases[record - 1]];
  const text = (record) => words[records.texts[record - 1]];
  const tickOf = (record) => ticks[record - 1];
  const clock = (tick) => `${(tick * records.tick).toFixed(3)}s`;
  const nameOf = (thing) => things[thing].slice(things[thing].indexOf(":") + 1);
  const nameOfKey = (key) => key.slice(key.indexOf(":") + 1);
  const last = Math.max(count ? ticks[count - 1] : 0, film.ticks.length ? film.ticks[film.ticks.length - 1] : 0);

  // What each record led to at once, as ranges of one list.
  const starts = new Uint32Array(count + 2);
  for (const cause of causes) starts[cause + 1] += 1;
  for (let index = 1; index < starts.length; index += 1) starts[index] += starts[index - 1];
  const led = new Uint32Array(count);
  const filled = starts.slice();
  causes.forEach((cause, index) => { led[filled[cause]] = index + 1; filled[cause] += 1; });
  const effectsOf = (record) => led.subarray(starts[record], starts[record + 1]);

  // How each signal was met.
  const met = (record) => {
    if (event(record) !== "delivered") return event(record) === "refused" ? "refused" : "";
    let heard = "unheard";
    for (const effect of effectsOf(record)) {
      if (event(effect) === "took") return "";
      if (event(effect) === "refused") heard = "refused";
    }
    return heard;
  };

  // The records about a thing. A use of a kit stands for what is in it.
  const isOf = (thing, key) => thing === key || (key.startsWith("kit:") && thing.slice(thing.indexOf(":") + 1).startsWith(`${key.slice(4)}.`));
  const matching = (key) => {
    const wanted = new Set();
    things.forEach((thing, index) => { if (isOf(thing, key)) wanted.add(index); });
    const found = [];
    for (let record = 1; record <= count; record += 1) {
      if (about[record - 1].some((thing) => wanted.has(thing))) found.push(record);
    }
    return found;
  };

  let tick = 0;
  let chosen = { record: 0, key: "", among: [] };
  let roles = new Uint8Array(count + 1);
  const ROLES = ["", "cause", "pick", "effect"];

  // Time.
  const shown = new Map();
  const showMap = () => {
    const wanted = new Map();
    for (let moment = 0; moment < film.ticks.length && film.ticks[moment] <= Math.max(tick, film.ticks[0]); moment += 1) {
      for (const [piece, look] of film.changes[moment]) wanted.set(piece, look);
    }
    for (const [piece, look] of shown) if (look && !wanted.has(piece)) wanted.set(piece, "");
    for (const [piece, look] of wanted) {
      if (shown.get(piece) === look) continue;
      shown.set(piece, look);
      const element = at(`piece-${piece}`);
      if (!element) continue;
      if (look.startsWith("<")) {
        element.innerHTML = look;
      } else if (!look) {
        if (element.dataset.dot) element.setAttribute("display", "none"); else element.replaceChildren();
      } else {
        const [x, y, opacity] = look.split(" ");
        element.dataset.dot = "yes";
        element.removeAttribute("display");
        element.setAttribute("transform", `translate(${x} ${y})`);
        element.setAttribute("opacity", opacity || "1");
      }
    }
  };

  const lanes = document.querySelector("#lanes .paper");
  let piece = -1;
  // A long timeline is compressed.
  const unpacked = async (svg) => {
    if (svg.startsWith("<")) return svg;
    const bytes = Uint8Array.from(atob(svg), (letter) => letter.charCodeAt(0));
    const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate"));
    return new Response(stream).text();
  };
  const titled = (pointer) => {
    const element = pointer.target.closest("[data-records]");
    if (!element || !element.dataset.records || element.querySelector("title")) return;
    const title = document.createElementNS("http://www.w3.org/2000/svg", "title");
    title.textContent = element.dataset.records.split(" ").map((record) => `${clock(tickOf(record))} ${text(record)}`).join("\n");
    element.append(title);
  };
  const showLanes = async () => {
    const seconds = tick * records.tick;
    const found = pieces.findLastIndex((candidate) => candidate.from <= seconds + 1e-9);
    const next = Math.max(found, 0);
    if (!pieces[next]) return;
    if (next !== piece) {
      piece = next;
      const svg = await unpacked(pieces[next].svg);
      // Meanwhile another may have been asked for.
      if (next !== piece) return;
      lanes.innerHTML = svg;
      lanes.append(Object.assign(make("div"), { id: "line" }));
      lightLanes();
    }
    const line = at("line");
    if (!line) return;
    const { from, to, left, right } = pieces[piece];
    const part = to > from ? Math.min(1, Math.max(0, (tick * records.tick - from) / (to - from))) : 0;
    line.style.left = `${(left + part * (right - left)) * 100}%`;
    line.style.height = `${lanes.querySelector("svg").getBoundingClientRect().height}px`;
  };

  const showValues = () => {
    const now = values.map((value) => ({ text: words[value.first], fresh: false, record: 0 }));
    for (const [record, value, word] of changes) {
      if (tickOf(record) > tick) break;
      now[value] = { text: words[word], fresh: tickOf(record) === tick, record };
    }
    const lit = litThings();
    at("facts").replaceChildren(...values.map((value, index) => {
      const row = make("tr", `${now[index].fresh ? "fresh " : ""}${ROLES[lit.get(value.thing) || 0]}`);
      row.append(make("td", "", value.name), make("td", "", now[index].text));
      row.append(make("td", "", now[index].record ? `since ${clock(tickOf(now[index].record))}` : ""));
      row.onclick = () => (now[index].record ? choose(now[index].record) : chooseKey(things[value.thing]));
      return row;
    }));
  };

  const go = (to) => {
    tick = Math.min(last, Math.max(0, to));
    at("time").value = tick;
    at("now").value = `${clock(tick)} · tick ${tick}`;
    showMap();
    showLanes();
    showValues();
    scrollTo(firstAt(tick));
    showRows();
  };

  // The first record of a tick or of what comes after it.
  const firstAt = (wanted) => {
    let [low, high] = [0, count];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (ticks[middle] < wanted) low = middle + 1; else high = middle;
    }
    return low + 1;
  };
  const nextTick = () => {
    const record = firstAt(tick + 1);
    return record <= count ? tickOf(record) : last;
  };
  const earlierTick = () => {
    const record = firstAt(tick) - 1;
    return record >= 1 ? tickOf(record) : 0;
  };

  // What is chosen, and what is lit by it.
  const light = () => {
    roles = new Uint8Array(count + 1);
    if (chosen.record) {
      for (let record = causes[chosen.record - 1]; record; record = causes[record - 1]) roles[record] = 1;
      roles[chosen.record] = 2;
      for (let record = chosen.record + 1; record <= count; record += 1) {
        if (roles[causes[record - 1]] >= 2) roles[record] = 3;
      }
    }
    lightMap();
    lightLanes();
    lightWires();
  };
  // The strongest role of each thing: what is chosen, then causes, then effects.
  const STRENGTH = [0, 2, 3, 1];
  let litNow = new Map();
  const litThings = () => litNow;
  const gatherLit = () => {
    litNow = new Map();
    for (let record = 1; record <= count; record += 1) {
      const role = roles[record];
      if (!role) continue;
      for (const thing of about[record - 1]) {
        if (STRENGTH[role] > STRENGTH[litNow.get(thing) || 0]) litNow.set(thing, role);
      }
    }
    things.forEach((thing, index) => { if (chosen.key && isOf(thing, chosen.key)) litNow.set(index, 2); });
  };
  const mark = (element, role) => {
    element.classList.remove("cause", "pick", "effect");
    if (role) element.classList.add(ROLES[role]);
  };
  const indexOfThing = new Map(things.map((thing, index) => [thing, index]));
  const roleOf = (key) => {
    if (chosen.key === key) return 2;
    const whole = litNow.get(indexOfThing.get(key));
    if (whole || !key.startsWith("kit:")) return whole || 0;
    let best = 0;
    for (const [thing, role] of litNow) if (isOf(things[thing], key) && STRENGTH[role] > STRENGTH[best]) best = role;
    return best;
  };
  const isLit = () => chosen.record > 0 || chosen.key !== "";
  const lightMap = () => {
    gatherLit();
    const svg = document.querySelector("#map svg");
    svg.classList.toggle("lit", isLit());
    for (const element of svg.querySelectorAll("g[id][data-of]")) {
      mark(element, isLit() && element.dataset.of ? roleOf(`object:${element.dataset.of}`) || roleOf(`spot:${element.dataset.of}`) : 0);
    }
  };
  function lightLanes() {
    const svg = lanes.querySelector("svg");
    if (!svg) return;
    svg.classList.toggle("lit", chosen.record > 0);
    const best = (list) => list.split(" ").map((record) => roles[record] || 0)
      .reduce((one, two) => (STRENGTH[two] > STRENGTH[one] ? two : one), 0);
    for (const element of svg.querySelectorAll("[data-records]")) mark(element, best(element.dataset.records));
    for (const element of svg.querySelectorAll("[data-causes]")) {
      const [from, to] = [best(element.dataset.causes), best(element.dataset.effects)];
      mark(element, from && to ? (from === 1 ? 1 : 3) : 0);
    }
  }
  const lightWires = () => {
    const svg = document.querySelector("#wires svg");
    if (!svg) return;
    svg.classList.toggle("lit", isLit());
    const nodes = [...svg.querySelectorAll("[data-key]")];
    const lit = nodes.map((node) => roleOf(node.dataset.key));
    nodes.forEach((node, index) => mark(node, isLit() ? lit[index] : 0));
    for (const edge of svg.querySelectorAll("[data-from]")) {
      const [from, to] = [lit[edge.dataset.from], lit[edge.dataset.to]];
      mark(edge, from && to ? (from === 1 || to === 1 ? 1 : 3) : 0);
    }
    const first = nodes[lit.indexOf(2)];
    if (isLit() && first) reveal(first);
  };
  const reveal = (element) => {
    const paper = element.closest(".paper");
    const [box, frame] = [element.getBoundingClientRect(), paper.getBoundingClientRect()];
    paper.scrollTo(
      paper.scrollLeft + box.left + box.width / 2 - frame.left - frame.width / 2,
      paper.scrollTop + box.top + box.height / 2 - frame.top - frame.height / 2,
    );
  };

  const choose = (record, key = "", among = []) => {
    chosen = { record, key, among };
    light();
    // The trace has the room that the story leaves.
    tell();
    if (record) go(tickOf(record)); else { showValues(); showRows(); }
    if (record) scrollTo(record);
    // A link to it.
    history.replaceState(null, "", record || key ? `#${encodeURIComponent(key ? nameOfKey(key) : record)}` : location.pathname);
  };
  const chooseKey = (key) => {
    const among = matching(key);
    // The one at hand: the last before now, or the first of all.
    const record = among.findLast((candidate) => tickOf(candidate) <= tick) || among[0] || 0;
    choose(record, key, among);
  };
  const clear = () => { at("choose").value = ""; choose(0); };

  const line = (record, role) => {
    const item = make("li");
    const link = make("button", "link");
    link.append(make("span", "time", clock(tickOf(record))), make("span", `role ${role}`, role === "pick" ? "chosen" : role));
    link.append(make("span", "", text(record)));
    link.onclick = () => choose(record, chosen.key, chosen.among);
    item.append(link);
    return item;
  };
  const MOST = 12;
  const tell = () => {
    const story = at("story");
    story.replaceChildren();
    const { record, key, among } = chosen;
    if (!record && !key) {
      story.append(make("p", "hint", "Choose a line of the trace, or anything in a picture: what caused it and what it led to is lit everywhere. Esc clears it."));
      at("told").textContent = "Nothing is chosen.";
      return;
    }
    if (key) {
      const head = make("p");
      head.append(make("b", "", nameOfKey(key)), make("small", "", ` ${key.slice(0, key.indexOf(":"))}, ${among.length} in the trace `));
      if (among.length > 1) {
        const place = among.indexOf(record);
        for (const [word, step] of [["previous", -1], ["next", 1]]) {
          const button = make("button", "", word);
          button.disabled = place >= 0 && !among[place + step];
          button.onclick = () => another(step);
          head.append(button, " ");
        }
      }
      story.append(head);
    }
    if (!record) {
      story.append(make("p", "hint", "Nothing happened to it."));
      at("told").textContent = `${key}: nothing happened to it.`;
      return;
    }
    const back = [];
    for (let cause = causes[record - 1]; cause; cause = causes[cause - 1]) back.push(cause);
    const on = [];
    for (let effect = record + 1; effect <= count; effect += 1) if (roles[effect] === 3) on.push(effect);
    const list = make("ol");
    if (back.length > MOST) list.append(make("li", "hint", `… ${back.length - MOST} earlier causes`));
    back.slice(0, MOST).reverse().forEach((cause) => list.append(line(cause, "cause")));
    list.append(line(record, "pick"));
    on.slice(0, MOST).forEach((effect) => list.append(line(effect, "effect")));
    if (on.length > MOST) list.append(make("li", "hint", `… ${on.length - MOST} more effects`));
    story.append(list);
    at("told").textContent = `${text(record)} at ${clock(tickOf(record))}: ${back.length} causes, ${on.length} effects.`;
  };
  const another = (step) => {
    const { record, key, among } = chosen;
    const place = among.indexOf(record);
    const near = step > 0 ? among.find((other) => other > record) : among.findLast((other) => other < record);
    const next = place >= 0 ? among[place + step] : near;
    if (next) choose(next, key, among);
  };

  // The trace: only the rows that are seen exist.
  const HEIGHT = 22;
  let rows = [];
  const sift = () => {
    const name = at("about").value.trim();
    const person = at("who").value;
    const filtered = [];
    const keys = new Set();
    if (name) things.forEach((thing, index) => {
      const whole = thing.slice(thing.indexOf(":") + 1);
      if (whole === name || thing === name || whole.startsWith(`${name}.`) || whole.endsWith(`.${name}`) || whole.includes(`.${name}.`)) keys.add(index);
    });
    const isNamed = (record) => !name || about[record - 1].some((thing) => keys.has(thing)) || text(record).includes(name);
    // What came to something, or from it, at once, is shown with it.
    const isNear = (record) => isNamed(record) || (causes[record - 1] && isNamed(causes[record - 1])) || [...effectsOf(record)].some(isNamed);
    const wasRefused = (record) => event(record) === "refused" || [...effectsOf(record)].some((effect) => event(effect) === "refused");
    for (let record = 1; record <= count; record += 1) {
      if (at("refused").checked && !wasRefused(record)) continue;
      if (at("chain").checked && !roles[record]) continue;
      if (person && (!who[record - 1] || nameOf(who[record - 1] - 1) !== person)) continue;
      if (name && !isNear(record)) continue;
      filtered.push(record);
    }
    rows = filtered;
    at("count").textContent = rows.length === count ? `${count} records` : `${rows.length} of ${count} records`;
    at("sheet").style.height = `${rows.length * HEIGHT}px`;
    showRows();
  };
  const begins = new Set(records.begins);
  const rowOf = (record) => {
    let [low, high] = [0, rows.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (rows[middle] < record) low = middle + 1; else high = middle;
    }
    return low;
  };
  function showRows() {
    const box = at("rows");
    const from = Math.max(0, Math.floor(box.scrollTop / HEIGHT) - 10);
    const to = Math.min(rows.length, from + Math.ceil(box.clientHeight / HEIGHT) + 20);
    const drawn = [];
    for (let index = from; index < to; index += 1) {
      const record = rows[index];
      const role = ROLES[roles[record]];
      const row = make("div", `row ${role} ${met(record)} ${tickOf(record) === tick ? "now" : ""}`);
      row.id = `row-${record}`;
      row.style.top = `${index * HEIGHT}px`;
      row.setAttribute("role", "option");
      row.setAttribute("aria-posinset", index + 1);
      row.setAttribute("aria-setsize", rows.length);
      row.setAttribute("aria-selected", record === chosen.record);
      const world = begins.has(record) ? "another world begins: " : "";
      row.append(make("span", "time", clock(tickOf(record))), make("span", "phase", phase(record)));
      row.append(make("span", "text", world + text(record)));
      const words = [who[record - 1] ? nameOf(who[record - 1] - 1) : "", role === "pick" ? "chosen" : role];
      row.append(make("span", "who", words.filter(Boolean).join(" · ")));
      row.title = text(record);
      row.onclick = () => choose(record);
      drawn.push(row);
    }
    at("sheet").replaceChildren(...drawn);
    if (chosen.record) box.setAttribute("aria-activedescendant", `row-${chosen.record}`);
    else box.removeAttribute("aria-activedescendant");
  }
  const scrollTo = (record) => {
    const box = at("rows");
    const top = rowOf(record) * HEIGHT;
    if (top < box.scrollTop || top + 4 * HEIGHT > box.scrollTop + box.clientHeight) {
      box.scrollTop = Math.max(0, top - box.clientHeight / 3);
    }
  };

  // What people do.
  at("rows").onscroll = showRows;
  at("filter").onsubmit = (input) => input.preventDefault();
  at("filter").oninput = sift;
  at("time").max = last;
  at("time").oninput = () => go(Number(at("time").value));
  at("back").onclick = () => go(tick - 1);
  at("on").onclick = () => go(tick + 1);
  at("before").onclick = () => go(earlierTick());
  at("after").onclick = () => go(nextTick());
  at("theme").onclick = () => {
    const root = document.documentElement;
    root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
  };
  const keyNamed = (name) => things.find((thing) => thing === name) || ["signal", "object", "variable", "effect", "wire", "spot"]
    .map((kind) => `${kind}:${name}`).find((key) => indexOfThing.has(key));
  at("choose").onchange = () => {
    const name = at("choose").value.trim();
    const key = name && keyNamed(name);
    if (key) chooseKey(key);
    else if (!name) clear();
    else at("told").textContent = `There is nothing called ${name}.`;
  };
  lanes.addEventListener("pointerover", titled);
  document.querySelector(".pictures").addEventListener("click", (click) => {
    const element = click.target.closest("[data-records], [data-key], [data-of]");
    if (!element) return;
    const { records: of, key, of: name } = element.dataset;
    if (of) choose(Number(of.split(" ")[0]));
    else if (key) chooseKey(key);
    else if (name) chooseKey(indexOfThing.has(`object:${name}`) ? `object:${name}` : keyNamed(name) || `object:${name}`);
  });
  document.addEventListener("keydown", (press) => {
    const isTyping = ["INPUT", "SELECT", "TEXTAREA"].includes(press.target.tagName);
    if (press.key === "Escape") clear();
    if (isTyping || press.ctrlKey || press.altKey || press.metaKey) return;
    const inRows = press.target === at("rows");
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15, Home: -rows.length, End: rows.length }[press.key];
    if (inRows && step && rows.length) {
      const place = chosen.record ? rowOf(chosen.record) : rowOf(firstAt(tick)) - Math.sign(step);
      choose(rows[Math.min(rows.length - 1, Math.max(0, place + step))]);
    } else if (press.key === "ArrowRight") go(press.shiftKey ? nextTick() : tick + 1);
    else if (press.key === "ArrowLeft") go(press.shiftKey ? earlierTick() : tick - 1);
    else if (press.key === "n") another(1);
    else if (press.key === "p") another(-1);
    else if (press.key === "/") at("choose").focus();
    else return;
    press.preventDefault();
  });

  // At first.
  document.documentElement.dataset.theme = matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  const names = [...things].sort();
  at("things").append(...names.map((thing) => {
    const option = make("option", "", thing.slice(0, thing.indexOf(":")));
    option.value = thing.slice(thing.indexOf(":") + 1);
    return option;
  }));
  const people = [...new Set(who.filter(Boolean))].map((thing) => nameOf(thing - 1)).sort();
  at("who").append(...people.map((person) => make("option", "", person)));
  sift();
  tell();
  go(0);
  const asked = decodeURIComponent(location.hash.slice(1));
  if (Number(asked) >= 1 && Number(asked) <= count) choose(Math.floor(Number(asked)));
  else if (asked && keyNamed(asked)) chooseKey(keyNamed(asked));
})();
