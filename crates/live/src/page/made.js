// A playtest that is made of what was done.
import { world, ask } from "./world.js";

const $ = (id) => document.getElementById(id);

export class Made {
  constructor() {
    $("make").onclick = () => this.open();
    $("since").onchange = () => this.offer();
    $("name").oninput = () => this.again();
    $("copy").onclick = () => navigator.clipboard.writeText($("made-text").textContent).then(() => this.verdict("copied", true), () => this.verdict("this browser does not copy", false));
    $("write").onclick = () => this.make(true);
  }

  open() {
    if (!$("name").value) $("name").value = `${world.player ?? "somebody"} was here`;
    $("verdict").textContent = "";
    $("made").showModal();
    this.offer();
  }

  offer() { ask({ do: "offer", since: Math.round(Number($("since").value) * (world.state?.rate ?? 30)) }); }

  put(made) {
    if (made.expected) {
      $("expected").replaceChildren(...made.expected.map((line) => {
        const label = document.createElement("label");
        const box = document.createElement("input");
        box.type = "checkbox"; box.checked = line.on; box.value = line.text;
        box.onchange = () => this.make(false);
        label.append(box, ` ${line.text}`);
        return label;
      }));
      $("write").textContent = made.file ? `Write into ${made.file}` : "Write";
      $("write").disabled = !made.file;
      this.make(false);
      return;
    }
    $("made-text").textContent = made.text;
    const passes = made.story.length === 0;
    this.verdict(passes ? "it passes" : made.story.join("\n"), passes);
  }

  verdict(words, good) { const line = $("verdict"); line.textContent = words; line.className = good ? "good" : "bad"; }

  again() { clearTimeout(this.later); this.later = setTimeout(() => this.make(false), 250); }

  make(write) {
    const expected = [...$("expected").querySelectorAll("input:checked")].map((box) => box.value);
    ask({ do: "make", name: $("name").value, expected, write });
  }
}
