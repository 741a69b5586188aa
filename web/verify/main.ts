import "./page.css";
import { type CardCheck, checkCard } from "./check";

const find = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;
const file = find<HTMLInputElement>("card");
const key = find<HTMLInputElement>("key");
const answer = find("answer");

function show(check: CardCheck) {
  answer.dataset.holds = String(check.holds);
  const title = document.createElement("h2");
  title.textContent = check.holds ? "✓ It holds" : "✗ It does not hold";
  const list = document.createElement("ul");
  for (const line of check.lines) {
    const item = document.createElement("li");
    item.textContent = line;
    list.append(item);
  }
  answer.replaceChildren(title, list);
}

async function look() {
  const chosen = file.files?.[0];
  if (chosen) show(checkCard(await chosen.text(), key.value.trim()));
}
file.addEventListener("change", look);
key.addEventListener("input", look);
