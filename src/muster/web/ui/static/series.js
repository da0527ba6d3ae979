// The grid of a series: Enter keeps a figure and goes on at once, whatever the server takes; a cell is chosen by a tap, N is the next unit.
// Without this file each figure is a page of its own.
"use strict";
(() => {
  const grid = document.getElementById("seriesgrid");
  if (!grid) return;
  grid.querySelector("#figure")?.focus({ preventScroll: true });
  let sending = Promise.resolve(), waiting = 0;
  const box = () => grid.querySelector("#figure");
  const here = () => grid.querySelector("[name=cell]");
  const cells = () => [...grid.querySelectorAll("[data-cell]")];
  const unitOf = (cell) => cell.dataset.cell.split(":")[0];
  const isEmpty = (cell) => cell.textContent.trim() === "·";

  const point = (cell) => {
    here().value = cell.dataset.cell;
    grid.querySelector(".isnext")?.classList.remove("isnext");
    cell.closest("td").classList.add("isnext");
    const name = grid.querySelector(`[data-unit-name="${unitOf(cell)}"] .name`);
    if (name) grid.querySelector("[data-who]").textContent = name.textContent;
    grid.querySelector("[data-what]").textContent = cell.dataset.says ?? "";
    grid.querySelector("[data-unitword]").textContent = cell.dataset.unit ?? "";
    box().value = grid.querySelector("[name=was]").value = isEmpty(cell) ? "" : cell.textContent.trim();
    box().focus();
    box().select();
  };
  /* Down the unit that is being filled, then on to the next; shared cells stand with the first. */
  const after = (cell) => {
    const all = cells(), units = [...new Set(all.map(unitOf))];
    const order = units.flatMap((unit) => all.filter((other) => unitOf(other) === unit));
    const rest = order.slice(order.indexOf(cell) + 1);
    return rest.find(isEmpty) ?? order.find(isEmpty);
  };
  const take = async (answer) => {
    waiting -= 1;
    if (!answer.ok) throw new Error(answer.status);
    const fresh = document.createElement("div");
    fresh.innerHTML = await answer.text();
    const wrong = fresh.querySelector(".error");
    if (waiting && !wrong) return;
    const typed = box()?.value ?? "", at = here()?.value, was = at && cells().find((cell) => cell.dataset.cell === at);
    const goesOn = typed !== "" && !(was && typed === was.textContent.trim());
    if (!goesOn || wrong) grid.replaceChildren(...fresh.childNodes);
    else grid.querySelector("[data-table]").replaceWith(fresh.querySelector("[data-table]"));
    if (goesOn) return;
    (box() ?? grid.querySelector(".beginunit input[type=checkbox]"))?.focus();
    box()?.select();
  };
  const send = (data, action) => {
    waiting += 1;
    sending = sending.then(() => fetch(action, { method: "POST", body: data, headers: { "HX-Request": "true" } })).then(take)
      .catch(() => { grid.insertAdjacentHTML("afterbegin", '<p class="error" role="alert">Muster does not answer: the last figures may not be kept. Load this page again and look.</p>'); });
  };
  grid.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-figure]")) return;
    event.preventDefault();
    const data = new FormData(event.target), action = event.target.action;
    const cell = cells().find((other) => other.dataset.cell === here().value), text = box().value.trim();
    if (cell) {
      cell.textContent = text || "·";
      const next = after(cell);
      if (next) point(next); else box().value = "";
    }
    send(data, action);
  });
  grid.addEventListener("click", (event) => {
    const cell = event.target.closest("[data-cell]");
    if (!cell || !box()) return;
    event.preventDefault();
    point(cell);
  });
  grid.addEventListener("keydown", (event) => {
    if (event.key.toLowerCase() !== "n" || !event.target.matches("#figure")) return;
    event.preventDefault();
    const units = [...new Set(cells().map(unitOf))], next = units[units.indexOf(here().value.split(":")[0]) + 1];
    const cell = cells().find((other) => unitOf(other) === next && isEmpty(other));
    const begin = grid.querySelector(".nextunit");
    if (cell) point(cell);
    else if (begin) { begin.open = true; begin.querySelector("input[type=checkbox], button").focus(); }
  });
})();
