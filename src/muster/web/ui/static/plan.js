/* The noise plan: neighbour, house and wall moved by drag or arrow keys; what they come to is typed into the form, and kept. */
"use strict";
(() => {
  const plan = document.querySelector("[data-plan]");
  const form = document.querySelector("#planform");
  if (!plan || !form) return;
  const perUnit = Number(plan.dataset.perUnit), metre = Number(plan.dataset.metre);
  const names = { neighbour: ["neighbour_x", "neighbour_y"], house: ["house_x", "house_y"], wall1: ["wall_x1", "wall_y1"], wall2: ["wall_x2", "wall_y2"] };
  const field = (name) => form.elements[name];
  const value = (name) => Number(field(name).value.replace(",", ".").replace("\u2212", "-")) || 0;
  const set = (name, far) => { field(name).value = String(Math.round(far * 2) / 2); };
  const move = (which, east, north) => {
    const [x, y] = names[which];
    set(x, value(x) + east);
    set(y, value(y) + north);
  };
  const inPlan = (event) => {
    const box = plan.getBoundingClientRect();
    const scale = plan.viewBox.baseVal.width / box.width;
    return { x: event.clientX * scale, y: event.clientY * scale };
  };
  for (const handle of plan.querySelectorAll("[data-handle]")) {
    const which = handle.dataset.handle;
    let from = null;
    handle.addEventListener("pointerdown", (event) => { from = inPlan(event); handle.setPointerCapture(event.pointerId); event.preventDefault(); handle.focus(); });
    handle.addEventListener("pointermove", (event) => {
      if (!from) return;
      const at = inPlan(event);
      handle.setAttribute("transform", `translate(${at.x - from.x} ${at.y - from.y})`);
    });
    handle.addEventListener("pointerup", (event) => {
      if (!from) return;
      const at = inPlan(event);
      const moved = { x: at.x - from.x, y: at.y - from.y };
      from = null;
      if (Math.hypot(moved.x, moved.y) < 2) { handle.removeAttribute("transform"); return; }
      move(which, moved.x / perUnit, -moved.y / perUnit);
      form.requestSubmit();
    });
    let waiting = null;
    handle.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      move(which, by[0], by[1]);
      clearTimeout(waiting);
      sessionStorage.setItem("muster-plan-focus", which);
      waiting = setTimeout(() => form.requestSubmit(), 700);
    });
  }
  const focused = sessionStorage.getItem("muster-plan-focus");
  if (focused) { sessionStorage.removeItem("muster-plan-focus"); plan.querySelector(`[data-handle="${focused}"]`)?.focus(); }
  document.querySelector("[data-wall]")?.addEventListener("click", () => {
    const half = { x: value("neighbour_x") / 2, y: value("neighbour_y") / 2 };
    const far = Math.hypot(value("neighbour_x"), value("neighbour_y")) || 1;
    const along = { x: -value("neighbour_y") / far * 4 * metre, y: value("neighbour_x") / far * 4 * metre };
    set("wall_x1", half.x - along.x); set("wall_y1", half.y - along.y);
    set("wall_x2", half.x + along.x); set("wall_y2", half.y + along.y);
    form.requestSubmit();
  });
  document.querySelector("[data-nowall]")?.addEventListener("click", () => {
    for (const name of [...names.wall1, ...names.wall2]) set(name, 0);
    form.requestSubmit();
  });
})();
