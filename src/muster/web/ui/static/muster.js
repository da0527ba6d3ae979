/* Keys, themes, painted hours, the hold clock. Everything works without this file, only slower. */
"use strict";
(() => {
  const KEYS_OFF = "muster-keys-off";
  const typing = (el) => el.matches("input:not([type=checkbox]), textarea, select, [contenteditable]");
  const one = (selector) => document.querySelector(selector);
  const all = (selector) => [...document.querySelectorAll(selector)];

  /* Theme: at once, and remembered by the server's cookie. */
  document.addEventListener("change", (event) => {
    const el = event.target;
    if (el.matches("[data-theme-switch]")) {
      if (el.value) document.documentElement.dataset.theme = el.value;
      else delete document.documentElement.dataset.theme;
      fetch(el.form.action, { method: "POST", body: new FormData(el.form), redirect: "manual" });
    }
    if (el.matches("[data-autosubmit]")) el.form.submit();
  });

  /* A link to a finding opens what it stands in. */
  const openAt = () => {
    const target = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
    if (!target) return;
    for (let el = target; el; el = el.parentElement) if (el.tagName === "DETAILS") el.open = true;
    target.scrollIntoView({ block: "center" });
  };
  window.addEventListener("hashchange", openAt);
  openAt();

  /* The list of keys. */
  const openKeys = () => { const dialog = one("#keys"); if (dialog && !dialog.open) dialog.showModal(); };
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-keys-open]")) { event.preventDefault(); openKeys(); }
    if (event.target.closest("[data-print]")) window.print();
    if (event.target.closest("[data-note]")) note();
  });

  const note = () => { const line = one("[data-line]"); if (line) { line.value = "note: "; line.focus(); } };
  const look = (step) => {
    const marks = all("[data-look]");
    if (!marks.length) return;
    const now = marks.findIndex((el) => el.getAttribute("aria-current") === "true");
    marks[(now + step + marks.length) % marks.length].click();
  };

  /* Single keys: never while typing, never with a modifier, and they can be switched off. */
  let going = false;
  const press = (key) => {
    if (going) {
      going = false;
      const stage = key === "0" ? "10" : key;
      one(`[data-stage="${CSS.escape(stage)}"]`)?.click();
      return true;
    }
    if (key === "?") { openKeys(); return true; }
    if (key === "/") { one("[data-line]")?.focus(); return Boolean(one("[data-line]")); }
    if (key === "ArrowDown" || key === "ArrowUp") {
      if (!one("[data-look]")) return false;
      look(key === "ArrowDown" ? 1 : -1);
      return true;
    }
    const button = one(`[data-key="${CSS.escape(key.toLowerCase())}"]:not(:disabled)`);
    if (button) { button.click(); return true; }
    if (key === "g") { going = true; return true; }
    return false;
  };
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && typing(event.target)) event.target.blur();
    if (event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return;
    if (typing(event.target) || one("dialog[open]") || localStorage.getItem(KEYS_OFF)) return;
    if (event.target.matches("[type=checkbox]") && event.key.startsWith("Arrow")) return;
    if (press(event.key)) event.preventDefault();
  });
  const keysBox = one("#keys");
  if (keysBox) {
    const toggle = document.createElement("button");
    toggle.type = "button";
    toggle.className = "btn";
    const label = () => { toggle.textContent = localStorage.getItem(KEYS_OFF) ? "Switch single keys on" : "Switch single keys off"; };
    toggle.addEventListener("click", () => {
      if (localStorage.getItem(KEYS_OFF)) localStorage.removeItem(KEYS_OFF); else localStorage.setItem(KEYS_OFF, "1");
      label();
    });
    label();
    keysBox.querySelector("form").prepend(toggle, " ");
  }

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

  /* A form that comes in in place takes the focus: at what is wrong, else at its first field. */
  document.addEventListener("htmx:afterSettle", (event) => {
    const row = event.detail.elt?.closest?.(".editing") ?? one(".editing");
    const wrong = row?.querySelector("[aria-invalid=true]");
    if (row && !row.contains(document.activeElement)) (wrong ?? row.querySelector("input:not([type=hidden])"))?.focus();
  });

  /* The hold clock, from the server's time; it survives reload because the record holds it. */
  const tick = () => {
    for (const el of all("[data-hold-from]")) {
      const s = Math.max(0, Math.floor((Date.now() - Date.parse(el.dataset.holdFrom)) / 1000));
      el.textContent = `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")} held`;
    }
  };
  setInterval(tick, 500);
  tick();

  /* A look that is due: on the page, in the title, and by a sound each half minute until somebody logs what is read. */
  const plainTitle = document.title, BEEP_MS = 30000;
  let beeped = 0;
  const beep = () => {
    try {
      const ctx = new AudioContext(), tone = ctx.createOscillator(), gain = ctx.createGain();
      gain.gain.value = 0.15; tone.frequency.value = 880; tone.connect(gain).connect(ctx.destination);
      tone.start(); tone.stop(ctx.currentTime + 0.35); tone.onended = () => ctx.close();
    } catch { /* no sound on this machine: page and title say it */ }
  };
  const due = () => {
    const el = one("[data-due]"), over = el ? Math.floor((Date.now() - Date.parse(el.dataset.due)) / 1000) : -1;
    document.title = over >= 0 ? `Look in now · ${plainTitle}` : plainTitle;
    if (!el || over < 0) { beeped = 0; return; }
    el.classList.add("now");
    el.querySelector("[data-due-words]").textContent = over < 60 ? "Look in now." : `Look in now: due ${Math.floor(over / 60)} min ago.`;
    if (Date.now() - beeped > BEEP_MS) { beeped = Date.now(); beep(); }
  };
  setInterval(due, 1000);
  due();

  document.addEventListener("bench:shown", tick);
})();

// a file that was written while its page waited is fetched by itself
document.addEventListener("DOMContentLoaded", () => document.querySelector("[data-fetch]")?.click());
// what is stopped or tried again leads back to the page that waits, not to the part of it that was fetched
document.addEventListener("submit", (event) => {
  const back = event.target.querySelector?.("[data-here]");
  if (back) back.value = location.pathname + location.search;
});
