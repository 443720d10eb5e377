// A text of the wiring, beside.
import { say } from "./world.js";

const $ = (id) => document.getElementById(id);

/** Shows a line of the wiring beside. */
export const beside = async (place) => {
  const [, file, line] = place.match(/^(.*):(\d+)$/) ?? [null, place, "1"];
  const found = await fetch(`file?${encodeURIComponent(file)}`);
  if (!found.ok) { say(`${place} is not part of the wiring that this page knows`); return; }
  const text = $("text");
  text.replaceChildren(...(await found.text()).split("\n").map((words, number) => {
    const row = document.createElement("div");
    const count = document.createElement("i");
    count.textContent = number + 1;
    row.append(count, words || " ");
    row.className = number + 1 === Number(line) ? "here" : "";
    return row;
  }));
  $("file").textContent = place;
  $("beside").hidden = false;
  text.querySelector(".here")?.scrollIntoView({ block: "center" });
};
