/* Hours of a day, painted by drag or by keys. */
"use strict";
(() => {
  /* Hours painted by drag; arrow keys move, space paints. */
  let brush = null;
  const painted = (form) => window.htmx.trigger(form, "painted");
  document.addEventListener("pointerdown", (event) => {
    const cell = event.target.closest("[data-hours] label");
    if (!cell) return;
    event.preventDefault();
    const box = cell.querySelector("input");
    brush = { on: !box.checked, form: cell.closest("form") };
    box.checked = brush.on;
    box.focus();
  });
  document.addEventListener("pointermove", (event) => {
    if (!brush) return;
    const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-hours] label");
    if (cell && cell.closest("form") === brush.form) cell.querySelector("input").checked = brush.on;
  });
  document.addEventListener("pointerup", () => { if (brush) { painted(brush.form); brush = null; } });
  document.addEventListener("click", (event) => {
    /* The pointer has painted already; the label must not toggle it back. Keyboard clicks land on the box itself. */
    if (event.target.closest("[data-hours] label") && event.target.tagName !== "INPUT") event.preventDefault();
  });
  document.addEventListener("change", (event) => {
    const form = event.target.closest("[data-hours]");
    if (form && !brush) painted(form);
  });
  document.addEventListener("keydown", (event) => {
    const form = event.target.closest("[data-hours]");
    if (!form || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
    const boxes = [...form.querySelectorAll("input[type=checkbox]")];
    const next = boxes[boxes.indexOf(event.target) + (event.key === "ArrowRight" ? 1 : -1)];
    if (next) { if (event.shiftKey) next.checked = event.target.checked; next.focus(); if (event.shiftKey) painted(form); }
    event.preventDefault();
  });
})();
