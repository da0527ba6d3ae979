/* Clocks: how long a level has been held, and a look that is due. */
"use strict";
(() => {
  const one = (selector) => document.querySelector(selector);
  const all = (selector) => [...document.querySelectorAll(selector)];

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
    el.querySelector("[data-due-text]").textContent = over < 60 ? "Look in now." : `Look in now: due ${Math.floor(over / 60)} min ago.`;
    if (Date.now() - beeped > BEEP_MS) { beeped = Date.now(); beep(); }
  };
  setInterval(due, 1000);
  due();

  document.addEventListener("bench:shown", tick);
})();
