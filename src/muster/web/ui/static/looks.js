/* A page of looks by keyboard alone: Enter goes down a row in the same column, and a new row comes as the last is reached. Without this file there is the button for more rows. */
"use strict";
(() => {
  const form = document.querySelector("[data-looks]");
  if (!form) return;
  const body = form.querySelector("tbody"), count = form.querySelector("[name=looks]");
  const rows = () => [...body.rows];
  const addRow = () => {
    const last = body.rows[body.rows.length - 1], row = last.cloneNode(true), was = body.rows.length, now = was + 1;
    row.cells[0].textContent = now;
    for (const error of row.querySelectorAll(".error")) error.remove();
    for (const input of row.querySelectorAll("input")) {
      for (const name of ["name", "id"]) input[name] = input[name].replace(`look_${was}_`, `look_${now}_`);
      input.setAttribute("aria-label", input.getAttribute("aria-label").replace(`Row ${was}`, `Row ${now}`));
      input.value = "";
    }
    body.append(row);
    count.value = now;
  };
  form.addEventListener("focusin", (event) => {
    const row = event.target.closest("tbody tr");
    if (row && row === body.rows[body.rows.length - 1]) addRow();
  });
  form.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || !event.target.matches("tbody input")) return;
    event.preventDefault();
    const cell = event.target.closest("td"), all = rows(), at = all.indexOf(cell.parentElement);
    all[at + (event.shiftKey ? -1 : 1)]?.cells[cell.cellIndex].querySelector("input").focus();
  });
})();
