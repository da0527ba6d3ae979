/* Single keys, the list of them, themes, and where a link leads. Everything works without this file, only slower. */
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
    const said = event.target.closest("[data-say]");
    if (said) say(said.dataset.say);
  });

  const note = () => { const line = one("[data-line]"); if (line) { line.value = "note: "; line.focus(); } };
  /* One answer to what is asked about the line: the line that says it plainly. */
  const say = (words) => {
    const line = one("[data-line]");
    if (!line) return;
    line.value = words;
    line.focus();
    line.dispatchEvent(new Event("input", { bubbles: true }));
  };
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
      one(`[data-stage="${CSS.escape(key)}"]`)?.click();
      return true;
    }
    if (key === "?") { openKeys(); return true; }
    if (key === "k" && one("[data-kind]")) { one("[data-kind]").focus(); return true; }
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

  /* A form that comes in in place takes the focus: at what is wrong, else at its first field. */
  document.addEventListener("htmx:afterSettle", (event) => {
    const row = event.detail.elt?.closest?.(".editing") ?? one(".editing");
    const wrong = row?.querySelector("[aria-invalid=true]");
    if (row && !row.contains(document.activeElement)) (wrong ?? row.querySelector("input:not([type=hidden])"))?.focus();
  });
})();
