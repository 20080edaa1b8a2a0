#include "preview/sheet_page.hpp"

namespace undershelf {

std::string_view sheet_style() {
    return R"css(
:root { color-scheme: light dark; --paper: #fbfaf7; --ink: #24231f; --soft: #6b6a63; --line: #d9d6cc; --card: #f1efe8;
  --tick: #2f5572; }
@media (prefers-color-scheme: dark) {
  :root { --paper: #1c1b19; --ink: #eceae4; --soft: #a3a198; --line: #3c3a35; --card: #292824; --tick: #9cc3e0; }
}
* { box-sizing: border-box; }
body { margin: 0 auto; padding: 0 1.2rem 3rem; max-width: 100rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.4 system-ui, sans-serif; }
h1 { font-size: 1.5rem; margin: 1.2rem 0 0.2rem; overflow-wrap: anywhere; }
h2 { font-size: 1.05rem; margin: 1.6rem 0 0.6rem; padding-bottom: 0.3rem; border-bottom: 1px solid var(--line);
  overflow-wrap: anywhere; }
header p { margin: 0.2rem 0; color: var(--soft); }
nav { margin: 0.6rem 0; }
nav a, nav b { display: inline-block; padding: 0.1rem 0.4rem; color: inherit; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.9rem;
  grid-template-columns: repeat(auto-fill, minmax(min(12.5rem, 46%), 1fr)); }
.file { border: 1px solid var(--line); border-radius: 6px; padding: 0.5rem; min-width: 0; scroll-margin-top: 4rem; }
.file:has(input:checked) { border-color: var(--tick); box-shadow: 0 0 0 2px var(--tick); }
.file h3 { font-size: 0.9rem; margin: 0.4rem 0 0; overflow-wrap: anywhere; max-height: 4.2em; overflow: hidden; }
.file p { margin: 0.2rem 0 0; font-size: 0.8rem; color: var(--soft); overflow-wrap: anywhere; }
.grade b { color: var(--ink); }
.tick { display: block; font-size: 0.8rem; color: var(--soft); padding-bottom: 0.3rem; cursor: pointer; }
.tick span { font-variant-numeric: tabular-nums; }
input[type=checkbox] { width: 1.1rem; height: 1.1rem; vertical-align: -0.2rem; accent-color: var(--tick); }
.picture { display: flex; align-items: center; justify-content: center; width: 100%; height: 11rem; padding: 0; border: 0;
  background: var(--card); border-radius: 4px; cursor: zoom-in; }
.picture img { max-width: 100%; max-height: 100%; display: block; }
.card { height: 11rem; background: var(--card); border-radius: 4px; padding: 0.8rem; display: flex; flex-direction: column;
  gap: 0.3rem; font-size: 0.85rem; overflow: hidden; }
.card .why { color: var(--soft); margin-top: auto; }
#bar { display: none; position: sticky; top: 0; z-index: 1; gap: 0.8rem; flex-wrap: wrap; align-items: center;
  background: var(--paper); border-bottom: 1px solid var(--line); padding: 0.5rem 0; margin-top: 0.6rem; }
.scripted #bar { display: flex; }
html:not(.scripted) input, html:not(.scripted) .how { display: none; }
#count { min-width: 11rem; }
button { font: inherit; color: inherit; }
#bar button, dialog button { border: 1px solid var(--line); border-radius: 4px; background: var(--card);
  padding: 0.25rem 0.7rem; cursor: pointer; }
:focus-visible { outline: 3px solid var(--tick); outline-offset: 2px; }
dialog { border: 1px solid var(--line); border-radius: 6px; background: var(--paper); color: var(--ink);
  max-width: 96vw; padding: 0.8rem; }
dialog::backdrop { background: rgb(0 0 0 / 0.6); }
dialog img { display: block; width: 800px; max-width: 100%; max-height: 78vh; object-fit: contain; }
dialog p { overflow-wrap: anywhere; }
@page { size: A4; margin: 12mm; }
@media print {
  :root { --paper: #fff; --ink: #000; --soft: #444; --line: #aaa; --card: #f4f4f4; }
  body { padding: 0; max-width: none; font-size: 9pt; }
  #bar, nav, dialog { display: none !important; }
  html ul { grid-template-columns: repeat(4, 1fr); gap: 3mm; }
  .file { break-inside: avoid; padding: 2mm; }
  h2 { break-after: avoid; }
  .picture, .card { height: 34mm; }
}
)css";
}

std::string_view sheet_script() {
    return R"js(
"use strict";
(() => {
  const body = document.body, key = "undershelf ticks " + body.dataset.shelf;
  document.documentElement.classList.add("scripted");
  const boxes = [...document.querySelectorAll("input[data-id]")];
  const groups = [...document.querySelectorAll("input.group")];
  const all = document.getElementById("all"), count = document.getElementById("count");
  let ticked = new Set();
  const read = () => {
    try { ticked = new Set(JSON.parse(localStorage.getItem(key) || "[]").map(String)); } catch (e) { /* none kept */ }
  };
  const keep = () => {
    try { localStorage.setItem(key, JSON.stringify([...ticked])); } catch (e) { /* they are in the page alone */ }
  };
  const summed = (box, some) => {
    const on = some.filter(b => b.checked).length;
    box.checked = on > 0 && on === some.length;
    box.indeterminate = on > 0 && on < some.length;
  };
  const within = box => [...box.closest("section").querySelectorAll("input[data-id]")];
  const show = () => {
    for (const box of boxes) box.checked = ticked.has(box.dataset.id);
    for (const box of groups) summed(box, within(box));
    summed(all, boxes);
    const here = boxes.filter(b => b.checked).length;
    count.textContent = ticked.size === 0 ? "Nothing is ticked yet."
      : ticked.size + (ticked.size === 1 ? " file is ticked" : " files are ticked")
        + (here < ticked.size ? ", " + here + " of them on this page." : ".");
  };
  const set = (some, on) => {
    read();  // another page may have changed it meanwhile
    for (const box of some) on ? ticked.add(box.dataset.id) : ticked.delete(box.dataset.id);
    keep();
    show();
  };
  for (const box of boxes) box.addEventListener("change", () => set([box], box.checked));
  for (const box of groups) box.addEventListener("change", () => set(within(box), box.checked));
  all.addEventListener("change", () => set(boxes, all.checked));
  document.getElementById("clear").addEventListener("click", () => {
    if (ticked.size === 0 || confirm("Take away all " + ticked.size + " ticks?")) { ticked.clear(); keep(); show(); }
  });
  document.getElementById("save").addEventListener("click", () => {
    read();
    const ids = [...ticked].map(Number).sort((a, b) => a - b);
    const lines = [body.dataset.heading, "# ticked on a sheet: undershelf mark SHELF --ids-from THIS-FILE takes it", ...ids];
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([lines.join("\n") + "\n"], {type: "text/plain"}));
    link.download = "ticks-" + body.dataset.shelf + ".txt";
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  });
  addEventListener("storage", e => { if (e.key === key) { read(); show(); } });

  const large = document.getElementById("large");
  document.querySelector("main").addEventListener("click", e => {
    const picture = e.target.closest(".picture");
    if (!picture) return;
    const image = large.querySelector("img");
    image.src = picture.querySelector("img").src;
    image.alt = picture.querySelector("img").alt;
    large.querySelector("p").textContent = picture.closest(".file").querySelector("h3").textContent;
    large.showModal();
  });
  large.querySelector("button").addEventListener("click", () => large.close());
  large.addEventListener("click", e => { if (e.target === large) large.close(); });

  // Arrows go from file to file; the space bar ticks, Enter shows it larger.
  const files = [...document.querySelectorAll(".file")];
  document.querySelector("main").addEventListener("keydown", e => {
    const at = files.indexOf(e.target.closest(".file"));
    if (at < 0 || large.open) return;
    const top = files[at].offsetTop, list = files[at].parentElement;
    const row = [...list.children].filter(f => f.offsetTop === top).length;
    const step = {ArrowRight: 1, ArrowLeft: -1, ArrowDown: row, ArrowUp: -row}[e.key];
    if (step) {
      const to = files[Math.min(files.length - 1, Math.max(0, at + step))];
      to.querySelector("input").focus();
      to.scrollIntoView({block: "nearest"});
      e.preventDefault();
    } else if (e.key === "Enter" && e.target.matches("input[data-id]")) {
      files[at].querySelector(".picture")?.click();
      e.preventDefault();  // else it closes again at once
    }
  });
  read();
  show();
})();
)js";
}

}  // namespace undershelf
