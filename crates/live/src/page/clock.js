// Time: held or running, a tick on, back to any tick, and on from there.
import { world, ask, tell } from "./world.js";

const $ = (id) => document.getElementById(id);
/** How many seconds the band shows. */
const SPAN = 60;

export class Clock {
  constructor(band) {
    this.band = band;
    this.paper = band.getContext("2d");
    this.counts = new Map();
    this.wanted = null;
    $("run").onclick = () => this.hold(!world.state?.paused);
    $("on").onclick = () => ask({ do: "step" });
    $("back").onclick = () => this.wind(world.tick - 1);
    $("back2").onclick = () => this.wind(world.tick - 2 * this.rate());
    $("latest").onclick = () => this.wind(world.state?.to ?? world.tick);
    $("times").onchange = (event) => ask({ do: "pace", times: Number(event.target.value) });
    band.onpointerdown = (event) => { band.setPointerCapture(event.pointerId); this.frozen = this.range(); this.drag(event); };
    band.onpointermove = (event) => { if (event.buttons) this.drag(event); };
    band.onpointerup = () => { this.frozen = null; };
    band.onkeydown = (event) => {
      const step = event.shiftKey ? this.rate() : 1;
      const to = { ArrowLeft: world.tick - step, ArrowRight: world.tick + step, Home: world.state?.from, End: world.state?.to }[event.key];
      if (to === undefined) return;
      event.preventDefault(); event.stopPropagation();
      this.wind(to);
    };
  }

  rate() { return world.state?.rate ?? 30; }

  hold(held) {
    ask({ do: held ? "pause" : "resume" });
    tell(held ? "held" : "running");
  }

  wind(tick) {
    const state = world.state;
    if (!state) return;
    // While it runs, the last tick is the one that is shown.
    const to = Math.max(state.from, Math.min(tick, state.paused ? state.to : world.tick));
    this.wanted = to;
    ask({ do: "wind", tick: to });
    tell(`tick ${to}`);
  }

  /** What was asked last, though the game keeps a state of its own. */
  anyway() { if (this.wanted !== null) ask({ do: "wind", tick: this.wanted, anyway: true }); }

  clear() { this.counts.clear(); }
  add(lines) {
    for (const line of lines) {
      const count = this.counts.get(line.tick) ?? { signals: 0, effects: 0, keys: 0 };
      if (line.event === "delivered") count.signals += 1;
      if (line.event === "performed") count.effects += 1;
      if (line.event === "key" || line.event === "set_out") count.keys += 1;
      this.counts.set(line.tick, count);
    }
    if (this.counts.size > 4000) for (const tick of [...this.counts.keys()].slice(0, 1000)) this.counts.delete(tick);
  }

  state() {
    const { paused, times, paced } = world.state;
    const run = $("run");
    run.textContent = paused ? "go on" : "hold";
    run.setAttribute("aria-pressed", paused);
    run.disabled = !paced;
    run.title = paced ? "Hold or go on (P)" : "This game does not ask the page how much time passes";
    if (![...$("times").options].some((option) => Number(option.value) === times)) $("times").append(new Option(`×${times}`, times));
    $("times").value = String(times);
    $("times").disabled = !paced;
    $("latest").disabled = !world.state.looking_back;
  }

  tick() {
    const seconds = (world.tick / this.rate()).toFixed(3);
    $("now").textContent = `${seconds} s · tick ${world.tick}`;
    this.band.setAttribute("aria-valuemin", world.state?.from ?? 0);
    this.band.setAttribute("aria-valuemax", Math.max(world.tick, world.state?.to ?? 0));
    this.band.setAttribute("aria-valuenow", world.tick);
    this.band.setAttribute("aria-valuetext", `${seconds} seconds`);
  }

  /** The first and the last tick that the band shows. */
  range() {
    if (this.frozen) return this.frozen;
    const last = Math.max(world.tick, world.state?.paused ? world.state.to : 0, this.rate() * 10);
    const span = SPAN * this.rate();
    return [Math.max(0, Math.min(last - span, world.tick - this.rate() * 2)), last];
  }

  drag(event) {
    const [from, to] = this.range();
    const box = this.band.getBoundingClientRect();
    const part = (event.clientX - box.left) / box.width;
    const tick = Math.round(from + part * (to - from));
    if (tick !== this.dragged) { this.dragged = tick; this.wind(tick); }
  }

  inks() {
    const style = getComputedStyle(document.documentElement);
    const ink = (name) => style.getPropertyValue(`--${name}`).trim();
    this.ink = { row: ink("row"), edge: ink("edge"), quiet: ink("quiet"), now: ink("now"), warm: ink("warm"), chosen: ink("chosen"), text: ink("ink") };
  }

  draw() {
    const { band, paper, ink } = this;
    const dots = devicePixelRatio || 1;
    const [width, height] = [band.clientWidth, band.clientHeight];
    if (band.width !== Math.round(width * dots)) { band.width = Math.round(width * dots); band.height = Math.round(height * dots); }
    paper.setTransform(dots, 0, 0, dots, 0, 0);
    paper.clearRect(0, 0, width, height);
    const [from, to] = this.range();
    const x = (tick) => ((tick - from) / Math.max(1, to - from)) * width;
    paper.fillStyle = ink.row;
    paper.fillRect(x(Math.max(from, world.state?.from ?? 0)), 0, width, height);
    const rate = this.rate();
    paper.font = "10.5px system-ui, sans-serif";
    paper.textAlign = "center";
    // A number needs so much room.
    const every = [1, 2, 5, 10, 20, 30].find((every) => (every * rate * width) / Math.max(1, to - from) >= 46) ?? 60;
    for (let second = Math.ceil(from / rate / every) * every; second * rate <= to; second += every) {
      paper.fillStyle = ink.edge;
      paper.fillRect(x(second * rate), 0, 1, height - 13);
      paper.fillStyle = ink.quiet;
      paper.fillText(`${second} s`, Math.min(Math.max(x(second * rate), 12), width - 14), height - 3);
    }
    for (const [tick, count] of this.counts) {
      if (tick < from || tick > to) continue;
      const at = x(tick);
      const bar = (value, ink, base, tall) => {
        if (!value) return;
        paper.fillStyle = ink;
        const height = Math.min(tall, 3 + value * 2.5);
        paper.fillRect(at - 1, base - height, 2, height);
      };
      paper.globalAlpha = tick > world.tick ? 0.35 : 1;
      bar(count.signals, ink.quiet, 32, 17);
      bar(count.keys, ink.chosen, 10, 7);
      bar(count.effects, ink.now, 19, 8);
      paper.globalAlpha = 1;
    }
    paper.fillStyle = ink.chosen;
    const now = Math.min(x(world.tick), width - 1.5);
    paper.fillRect(now - 1, 0, 2.5, height);
  }
}
