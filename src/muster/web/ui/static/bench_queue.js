/* What is pressed or typed on the bench: kept by the browser until Muster acknowledges it, sent in order, taken once.
   Each piece stands under the log line with its own mark until it is in the record. It outlives a reload. */
"use strict";
(() => {
  const live = document.getElementById("live"), box = document.getElementById("outbox");
  if (!live || !box) return;
  const SESSION = box.dataset.session;
  const one = (selector) => document.querySelector(selector);

  /* The store: IndexedDB, so that a line survives a closed browser; memory where there is none. */
  const opened = new Promise((resolve) => {
    try {
      const request = indexedDB.open("muster-outbox", 1);
      request.onupgradeneeded = () => request.result.createObjectStore("jobs", { keyPath: "id" }).createIndex("session", "session");
      request.onsuccess = () => resolve(request.result);
      request.onerror = () => resolve(null);
    } catch { resolve(null); }
  });
  const written = (how) => opened.then((db) => new Promise((resolve) => {
    if (!db) { resolve(); return; }
    const change = db.transaction("jobs", "readwrite");
    how(change.objectStore("jobs"));
    change.oncomplete = change.onerror = change.onabort = () => resolve();
  }));
  const keep = (job) => written((jobs) => jobs.put(job));
  const forget = (job) => written((jobs) => jobs.delete(job.id));
  const kept = () => opened.then((db) => new Promise((resolve) => {
    if (!db) { resolve([]); return; }
    const request = db.transaction("jobs").objectStore("jobs").index("session").getAll(SESSION);
    request.onsuccess = () => resolve(request.result.sort((a, b) => a.at - b.at));
    request.onerror = () => resolve([]);
  }));

  /* The list: what waits, what failed and why, and what can be done about it. */
  let jobs = [];
  const MARKS = { waiting: "waiting", sending: "sending", failed: "not kept" };
  const button = (words, act) => {
    const made = document.createElement("button");
    made.type = "button"; made.className = "btn small"; made.textContent = words;
    made.addEventListener("click", act);
    return made;
  };
  const draw = () => {
    box.textContent = "";
    for (const job of jobs) {
      if (job.state !== "failed" && !job.typed) continue;
      const item = document.createElement("li");
      item.className = job.state;
      const text = document.createElement("span"), mark = document.createElement("b");
      text.className = "mono"; text.textContent = job.typed || job.words;
      mark.textContent = MARKS[job.state];
      item.append(mark, " ", text);
      if (job.state === "failed") {
        const why = document.createElement("span");
        why.className = "error"; why.textContent = ` ${job.why}`;
        item.append(why, " ", button("Send again", () => again(job)));
        if (job.typed) item.append(" ", button("Change it", () => { const line = one("#line"); if (line && !line.value) { line.value = job.typed; drop(job); line.focus(); } }));
        item.append(" ", button("Take back", () => drop(job)));
      }
      box.append(item);
    }
    heard();
  };
  /* A key that was pressed is marked until its answer is there. */
  const heard = () => {
    for (const el of document.querySelectorAll(".heard")) { el.classList.remove("heard"); el.removeAttribute("aria-busy"); }
    for (const job of jobs) {
      const el = job.from && job.state !== "failed" && one(job.from);
      if (el) { el.classList.add("heard"); el.setAttribute("aria-busy", "true"); }
    }
  };
  const drop = (job) => { jobs = jobs.filter((other) => other !== job); forget(job); draw(); };
  const again = (job) => { job.state = "waiting"; job.why = ""; keep(job); draw(); work(); };

  const refuse = (words) => { const at = one("#refused"); if (at) at.textContent = words; };
  /* What the page shows, and what was drawn of it: a line of the record that stands as it stood is not sent again. */
  let shown = one("#livestrip")?.dataset.mark ?? "";
  const has = () => [...live.querySelectorAll("[data-part]")].map((part) => part.dataset.part).join(",");
  const show = async (answer) => {
    const drawn = document.createElement("template"), focused = document.activeElement?.id;
    drawn.innerHTML = await answer.text();
    for (const part of drawn.content.querySelectorAll("[data-stands]")) part.replaceWith(one(`#live [data-part="${part.dataset.stands}"]`) ?? "");
    live.replaceChildren(drawn.content);
    shown = answer.headers.get("Muster-Mark") ?? shown;
    document.dispatchEvent(new CustomEvent("bench:shown"));
    if (focused && document.activeElement === document.body) document.getElementById(focused)?.focus();
    heard();
  };
  const fail = async (job, why) => { job.state = "failed"; job.why = why; await keep(job); draw(); };

  const bodyOf = (job) => {
    const body = new URLSearchParams(job.fields);
    const call = body.has("load") && one(`[data-call="${CSS.escape(body.get("load"))}"]`);
    if (call && !job.sent) body.set("on", call.getAttribute("aria-pressed") === "true" ? "0" : "1");
    job.fields = [...body];
    job.sent = true;
    const token = one("[name=csrfmiddlewaretoken]");
    if (token) body.set("csrfmiddlewaretoken", token.value);
    body.set("once", job.id);
    body.set("ago_s", ((Date.now() - job.at) / 1000).toFixed(1));
    return body;
  };
  const send = async (job) => {
    job.state = "sending";
    draw();
    const body = bodyOf(job);
    await keep(job);
    try {
      const answer = await fetch(job.url, { method: "POST", body, headers: { "HX-Request": "true", "Muster-Has": has() } });
      if (answer.ok) { wanted = ""; drop(job); await show(answer); refuse(""); }
      else if (answer.status === 422 || answer.status === 403) {
        const text = await answer.text();
        await fail(job, text.length < 300 ? text : "Sign in again: open the address that Muster printed, then send it again.");
      } else await fail(job, `Muster failed on it (${answer.status}).`);
    } catch { await fail(job, "Muster does not answer."); }
  };
  /* A look at the page's parts as they are now changes nothing, so it is not kept. */
  let look = "", busy = false;
  /* The start that somebody chose to look at: a page drawn again by itself still shows it, until something is logged. */
  let wanted = "";
  const fetchLook = async (url) => {
    try {
      const answer = await fetch(url, { headers: { "HX-Request": "true", "Muster-Has": has() } });
      if (answer.ok) await show(answer);
    } catch { /* the page says by itself that Muster is silent */ }
  };
  const work = async () => {
    if (busy) return;
    busy = true;
    try {
      for (;;) {
        const job = jobs.find((other) => other.state === "waiting");
        if (job) { await send(job); continue; }
        if (!look) break;
        const url = look;
        look = "";
        await fetchLook(url);
      }
    } finally { busy = false; }
  };
  const put = (job) => {
    jobs.push(job);
    draw();
    keep(job);
    work();
  };

  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.matches("[data-live]")) return;
    event.preventDefault();
    /* What the page showed when the key was pressed: a double press is one. */
    for (const el of form.querySelectorAll("[data-from-live]")) el.value = one(".bench-mid")?.getAttribute(`data-bench-${el.dataset.fromLive}`) ?? "";
    const data = new FormData(form), by = event.submitter;
    if (by?.name) data.append(by.name, by.value);
    data.delete("csrfmiddlewaretoken");
    const logging = form.matches("[data-logline]"), typed = logging ? data.get("line").trim() : data.get("line") ?? "";
    if (logging && !typed) { refuse("Nothing was typed."); return; }
    const from = by?.dataset.key ? `[data-key="${CSS.escape(by.dataset.key)}"]` : "";
    put({
      id: crypto.randomUUID?.() ?? `${Date.now()}-${Math.random().toString(36).slice(2)}`, session: SESSION, url: form.action, at: Date.now(),
      fields: [...data].map(([name, value]) => [name, String(value)]), typed, words: by?.textContent.trim() ?? "", from, state: "waiting", why: "",
    });
    if (logging) { form.reset(); told.innerHTML = teaches; toldOf = null; refuse(""); }
  });
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-look]");
    if (!link || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    look = wanted = link.href;
    work();
  });
  /* A session is not sealed over the head of what was not kept yet. */
  document.addEventListener("submit", (event) => {
    if (!event.target.matches(".closing") || !jobs.length) return;
    event.preventDefault();
    refuse("Something above is not kept yet: send it again or take it back, then close.");
  });

  /* Somebody else logged something, or the recorder did: the page's parts are drawn again, unless one is being corrected. */
  let stale = null;
  const renew = () => {
    if (!stale || one(".correct[open]") || busy) return;
    const { page, mark } = stale;
    stale = null;
    if (mark && mark === shown) return;
    look = wanted || page;
    work();
  };
  document.addEventListener("bench:stale", (event) => { stale = event.detail; renew(); });
  setInterval(renew, 500);
  addEventListener("pageshow", (event) => { if (event.persisted) { stale = { page: location.href }; renew(); } });

  /* The stop key waits for nothing that is queued. */
  document.addEventListener("submit", async (event) => {
    const form = event.target;
    if (!form.matches("[data-halt]")) return;
    event.preventDefault();
    refuse("Stopping …");
    try {
      const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams(new FormData(form)), headers: { "HX-Request": "true" } });
      refuse(answer.ok ? "" : `Muster failed to stop it (${answer.status}): use the source’s own switch.`);
    } catch { refuse("Muster does not answer: use the source’s own switch. Outlets go off by themselves when Muster has been silent for 10 s."); }
  });

  /* What is told of the line being typed is of that line, or is not shown. */
  const line = one("#line"), told = one("#told");
  const teaches = told?.innerHTML ?? "";
  let toldOf = null;
  line?.addEventListener("input", () => { if (line.value !== toldOf) told.innerHTML = line.value ? "" : teaches; });
  /* What was typed before the page was ready to listen is told too. */
  addEventListener("load", () => { if (line?.value && line.value !== toldOf) line.dispatchEvent(new Event("early")); });
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target !== told) return;
    const asked = new URL(event.detail.xhr.responseURL || location.href).searchParams.get("line");
    if (asked !== line.value) event.detail.shouldSwap = false;
    else toldOf = asked;
  });

  /* What an earlier page could not send: what was on its way goes again, taken once by its id; what failed says so. */
  kept().then((found) => {
    const known = new Set(jobs.map((job) => job.id));
    jobs = [...found.filter((job) => !known.has(job.id)).map((job) => ({ ...job, state: job.state === "failed" ? "failed" : "waiting" })), ...jobs];
    draw();
    work();
  });
})();
