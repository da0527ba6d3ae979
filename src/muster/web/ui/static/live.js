/* The bench as it happens: readouts, the mark on the Stack, and a strip of the last minutes, from one stream of the server's. */
"use strict";
(() => {
  const host = document.getElementById("livestrip");
  if (!host) return;
  const panelsAt = host.querySelector("[data-panels]"), measuredAt = host.querySelector("[data-measured]");
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const PLACE = { 1: "--sea", 2: "--clay", total: "--ink", n: "--soft", dc: "--kelp", "-": "--ink" };
  const HEIGHT = 50, AXIS = 22, KEEP_S = 130, DRAW_MS = 120, SAY_MS = 10000;
  let channels = [], data = {}, flags = [], plots = [], epoch = 0, mark = host.dataset.mark, latest = null, due = false, said = 0;

  const slot = () => { const at = document.querySelector("[data-strip-slot]"); if (at && host.parentElement !== at) at.append(host); };
  const two = (x) => String(x).padStart(2, "0");
  const clock = (t) => { const at = new Date((epoch + t) * 1000); return `${two(at.getHours())}:${two(at.getMinutes())}:${two(at.getSeconds())}`; };
  const windowS = () => Number(host.querySelector("[data-window]:checked").value);
  const shown = () => channels.filter((c) => c.main || host.querySelector("[data-more]").checked);

  /* The strip: a panel a quantity; the channels of one panel share their axis whoever read them. */
  const groups = () => {
    const found = new Map();
    for (const c of shown()) { if (!found.has(c.panel)) found.set(c.panel, []); found.get(c.panel).push(c); }
    return [...found.entries()].sort((a, b) => a[0] - b[0]).map((entry) => entry[1]);
  };
  /* What draws the strip comes in once there is something to draw. */
  let drawing = null;
  const ready = () => {
    drawing ??= new Promise((resolve) => {
      const css = document.createElement("link"), script = document.createElement("script");
      css.rel = "stylesheet"; css.href = host.dataset.plotsCss; script.src = host.dataset.plots; script.onload = resolve;
      document.head.append(css, script);
    });
    return drawing;
  };
  const columns = (group) => uPlot.join(group.map((c) => data[c.heading] ?? [[], []]));
  const build = async () => {
    if (!channels.length) return;
    await ready();
    for (const plot of plots) plot.u.destroy();
    panelsAt.textContent = "";
    const soft = colour("--soft"), rule = colour("--rule"), font = `11px ${getComputedStyle(document.documentElement).getPropertyValue("--bs-font-monospace")}`;
    const all = groups();
    plots = all.map((group, at) => {
      const title = document.createElement("p");
      title.className = "paneltitle";
      title.textContent = group[0].title + (group.length > 1 ? ": " : "");
      if (group.length > 1) for (const c of group) {
        const name = document.createElement("span");
        name.textContent = c.name; name.style.color = colour(PLACE[c.place] ?? "--ink");
        title.append(name, " ");
      }
      panelsAt.append(title);
      const last = at === all.length - 1;
      const u = new uPlot({
        width: Math.max(200, panelsAt.clientWidth), height: HEIGHT + (last ? AXIS : 0), legend: { show: false }, padding: [3, 4, 0, 0],
        cursor: { sync: { key: "live" }, drag: { x: true, y: false, setScale: false }, y: false, points: { show: false } },
        scales: { x: { time: false, range: () => span() }, y: { range: (_, low, high) => room(low, high, group[0].least) } },
        series: [{}, ...group.map((c) => ({ stroke: colour(PLACE[c.place] ?? "--ink"), width: 1.4, points: { show: false }, spanGaps: group.length > 1, label: c.name }))],
        axes: [
          { show: last, stroke: soft, grid: { stroke: rule, width: 0.5 }, ticks: { show: false }, font, size: AXIS, space: 80, values: (_, ts) => ts.map(clock) },
          { stroke: soft, grid: { stroke: rule, width: 0.5 }, ticks: { show: false }, font, size: 46, space: 20 },
        ],
        hooks: { draw: [(u) => drawFlags(u, flags, colour)], setSelect: [measure] },
      }, columns(group), panelsAt);
      return { u, group };
    });
  };
  /* A steady figure is a steady line: a panel spans at least so much, and watts begin at nothing. */
  const room = (low, high, least) => {
    if (low == null) return [0, 1];
    const short = Math.max(0, least - (high - low)) / 2, more = (high - low) * 0.08;
    return [low - short - more, high + short + more];
  };
  const newest = () => Math.max(0, ...Object.values(data).map(([t]) => t[t.length - 1] ?? 0));
  const span = () => [newest() - windowS(), newest()];
  const draw = () => {
    due = false;
    for (const { u, group } of plots) u.setData(columns(group));
  };
  const wanted = () => { if (!due && !host.hidden) { due = true; setTimeout(() => requestAnimationFrame(draw), DRAW_MS); } };

  /* A brushed stretch is measured by the server. */
  const measure = async (u) => {
    if (u.select.width < 4) return;
    const from = u.posToVal(u.select.left, "x"), to = u.posToVal(u.select.left + u.select.width, "x");
    u.setSelect({ left: 0, width: 0, top: 0, height: 0 }, false);
    const answer = await fetch(`${host.dataset.measure}?heading=${encodeURIComponent(plots.find((p) => p.u === u).group[0].heading)}&from=${from}&to=${to}`);
    if (answer.ok) measuredAt.innerHTML = await answer.text();
  };

  const take = (news) => {
    for (const [heading, [t, v]] of Object.entries(news.data)) {
      const old = data[heading] ?? (data[heading] = [[], []]);
      const after = old[0][old[0].length - 1] ?? -Infinity;
      for (let i = 0; i < t.length; i++) if (t[i] > after) { old[0].push(t[i]); old[1].push(v[i]); }
      let drop = 0;
      while (drop < old[0].length && old[0][drop] < news.now - KEEP_S) drop++;
      if (drop > 50) { old[0].splice(0, drop); old[1].splice(0, drop); }
    }
  };

  /* Readouts and the mark on the Stack. */
  const fill = () => {
    if (!latest) return;
    const heard = Object.keys(latest.readouts).length > 0;
    const readouts = document.querySelector(".readouts");
    if (readouts && heard) readouts.setAttribute("aria-live", Date.now() - said > SAY_MS ? "polite" : "off");
    if (Date.now() - said > SAY_MS) said = Date.now();
    for (const el of document.querySelectorAll("[data-readout]")) {
      const now = latest.readouts[el.dataset.readout];
      if (!now) continue;
      let fig = el.querySelector(".fig");
      if (!fig) { el.querySelector(".big").innerHTML = '<span class="fig"></span> <span class="fig-unit"></span>'; fig = el.querySelector(".fig"); el.querySelector(".fig-unit").textContent = el.dataset.unit; }
      fig.textContent = now[0];
      if (el.dataset.low) el.classList.toggle("outside", now[1] < Number(el.dataset.low) || now[1] > Number(el.dataset.high));
    }
    const stack = document.querySelector(".stack");
    document.querySelectorAll("[data-now-leg]").forEach((el, leg) => {
      const va = latest.va[leg];
      el.setAttribute("visibility", va == null ? "hidden" : "visible");
      if (va == null || !stack) return;
      const { highest, base, top } = stack.dataset, share = Math.min(1.02, va / Number(highest));
      el.setAttribute("transform", `translate(0 ${(Number(base) - share * (Number(base) - Number(top))).toFixed(1)})`);
      el.querySelector("text").textContent = `${Math.round(va)}`;
    });
  };
  const apply = (news, hello) => {
    latest = news;
    if (hello) {
      channels = news.channels; epoch = news.epoch; data = {};
      host.hidden = !channels.length;
      slot();
    }
    take(news);
    if (news.flags) flags = news.flags;
    if (hello) build();
    fill();
    wanted();
    if (news.mark !== mark) {
      mark = news.mark;
      document.dispatchEvent(new CustomEvent("bench:stale", { detail: { page: host.dataset.page, mark } }));
    }
  };

  /* The stream, taken up again whenever it ends: by the browser itself, else by a new one; also when the page is come back to. */
  const AGAIN_MS = 3000;
  let stream = null;
  const open = () => {
    stream?.close();
    stream = new EventSource(host.dataset.liveUrl);
    stream.addEventListener("hello", (event) => { document.body.dataset.streaming = "1"; heardNow(); apply(JSON.parse(event.data), true); });
    stream.addEventListener("news", (event) => { heardNow(); apply(JSON.parse(event.data), false); });
    stream.addEventListener("error", () => {
      delete document.body.dataset.streaming;
      if (stream.readyState === EventSource.CLOSED) setTimeout(() => { if (stream.readyState === EventSource.CLOSED) open(); }, AGAIN_MS);
    });
  };
  open();
  addEventListener("pagehide", () => stream.close());
  addEventListener("pageshow", (event) => { if (event.persisted) open(); });

  /* Figures older than two seconds lose their ink and say how old they are; so does the page when Muster is silent. */
  const OLD_S = 2, SILENT_S = 4;
  let heardAt = performance.now();
  function heardNow() { heardAt = performance.now(); }
  const age = () => {
    const since = (performance.now() - heardAt) / 1000, silence = document.getElementById("silence");
    if (silence) {
      silence.hidden = since < SILENT_S;
      if (since >= SILENT_S) silence.textContent = `No word from Muster for ${Math.floor(since)} s: what this page shows may be old.`;
    }
    for (const el of document.querySelectorAll("[data-readout]")) {
      const now = latest?.readouts[el.dataset.readout], old = now ? latest.now - now[2] + since : 0;
      el.classList.toggle("old", old > OLD_S);
      let says = el.querySelector(".age");
      if (old <= OLD_S) { says?.remove(); continue; }
      if (!says) { says = document.createElement("span"); says.className = "age"; el.append(says); }
      says.textContent = `${Math.floor(old)} s old`;
    }
    document.querySelector(".recording")?.classList.toggle("old", since >= SILENT_S);
  };
  setInterval(age, 500);
  /* A start trace that was folded stays folded until the next start. */
  let folded = "";
  document.addEventListener("toggle", (event) => {
    if (event.target.matches("[data-start]")) folded = event.target.open ? "" : event.target.dataset.start;
  }, true);
  const fold = () => { const trace = document.querySelector("[data-start]"); if (trace && trace.dataset.start === folded) trace.open = false; };
  document.addEventListener("bench:shown", () => { slot(); fold(); fill(); });
  host.addEventListener("change", (event) => { if (event.target.matches("[data-more], [data-window]")) build(); });
  new MutationObserver(build).observe(document.documentElement, { attributeFilter: ["data-theme"] });
  slot();
})();
