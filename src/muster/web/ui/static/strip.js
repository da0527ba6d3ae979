/* The strip: panels on one time axis, data to the pixel from the server, drag to zoom or to measure. */
"use strict";
(() => {
  const page = JSON.parse(document.getElementById("strip-page").textContent);
  const here = document.querySelector("[data-strip-here]"), still = document.querySelector("[data-strip-still]");
  const bar = document.querySelector("[data-stripbar]"), shownAt = document.querySelector("[data-strip-shown]");
  const style = () => getComputedStyle(document.documentElement);
  const colour = (name) => style().getPropertyValue(name).trim();
  const PLACE = { 1: "--sea", 2: "--clay", total: "--ink", n: "--soft", dc: "--kelp", "-": "--ink" };
  const PANEL = 118, AXIS = 26, LEAST = 0.5;
  let shown = [...page.shown], plots = [], asked = 0;

  const two = (x) => String(x).padStart(2, "0");
  const clock = (t, fine) => {
    const at = new Date((page.epoch + t) * 1000), s = at.getUTCSeconds() + (fine ? at.getUTCMilliseconds() / 1000 : 0);
    return `${two(at.getUTCHours())}:${two(at.getUTCMinutes())}:${fine ? s.toFixed(1).padStart(4, "0") : two(s)}`;
  };
  const dragging = () => document.querySelector("[name=drag]:checked").value;

  const selected = (u) => {
    if (u.select.width < 4) return;
    const span = [u.posToVal(u.select.left, "x"), u.posToVal(u.select.left + u.select.width, "x")];
    if (dragging() === "measure") { measure(span); for (const other of plots) if (other !== u) other.setSelect({ ...u.select, top: 0, height: other.over.clientHeight }, false); return; }
    u.setSelect({ left: 0, width: 0, top: 0, height: 0 }, false);
    go(span);
  };
  const series = (panel) => panel.channels.flatMap((channel) => {
    const ink = colour(PLACE[channel.place] ?? "--ink");
    const line = { stroke: ink, width: 1.2, points: { show: false }, spanGaps: false };
    return [{ ...line, label: channel.name }, { ...line, label: `${channel.name}, low` }];
  });
  const bands = (panel) => panel.channels.map((channel, i) => ({ series: [2 * i + 1, 2 * i + 2], fill: colour(PLACE[channel.place] ?? "--ink") + "55" }));
  const columns = (panel, data) => [data.t, ...panel.channels.flatMap((channel) => [data.high[channel.at], data.low[channel.at]])];

  const build = (data) => {
    for (const plot of plots) plot.destroy();
    here.textContent = "";
    const soft = colour("--soft"), rule = colour("--rule"), font = `12px ${style().getPropertyValue("--bs-font-monospace")}`;
    plots = page.panels.map((panel, at) => {
      const title = document.createElement("p");
      title.className = "paneltitle";
      title.textContent = panel.title + (panel.channels.length > 1 ? ": " : "");
      panel.channels.forEach((channel) => {
        if (panel.channels.length < 2) return;
        const name = document.createElement("span");
        name.textContent = channel.name; name.style.color = colour(PLACE[channel.place] ?? "--ink");
        title.append(name, " ");
      });
      here.append(title);
      const last = at === page.panels.length - 1;
      return new uPlot({
        width: here.clientWidth, height: PANEL + (last ? AXIS : 0), legend: { show: false }, padding: [4, 6, 0, 0],
        cursor: { sync: { key: "strip" }, drag: { x: true, y: false, setScale: false }, y: false, points: { show: false } },
        scales: { x: { time: false } }, series: [{}, ...series(panel)], bands: bands(panel),
        axes: [
          { show: last, stroke: soft, grid: { stroke: rule, width: 0.5 }, ticks: { show: false }, font, size: AXIS, space: 90, values: (u, ts) => ts.map((t) => clock(t, shown[1] - shown[0] < 20)) },
          { stroke: soft, grid: { stroke: rule, width: 0.5 }, ticks: { show: false }, font, size: 58, space: 26 },
        ],
        hooks: { draw: [(u) => drawFlags(u, page.flags, colour)], setSelect: [selected] },
      }, columns(panel, data), here);
    });
  };
  const address = (base, span, more = "") => `${base}?trace=${page.trace}&from=${span[0]}&to=${span[1]}${more}`;
  const say = () => { shownAt.textContent = `${clock(shown[0])} to ${clock(shown[1])}`; };
  const measure = async (span) => {
    const answer = await fetch(address(page.measure, span));
    if (answer.ok) document.getElementById("measured").innerHTML = await answer.text();
  };
  const go = async (span, first = false) => {
    const middle = (span[0] + span[1]) / 2, half = Math.max(span[1] - span[0], LEAST) / 2;
    const length = Math.min(2 * half, page.whole[1] - page.whole[0]);
    let from = Math.max(page.whole[0], middle - length / 2);
    from = Math.min(from, page.whole[1] - length);
    const mine = ++asked, wanted = [from, from + length];
    const answer = await fetch(address(page.data, wanted, `&px=${Math.round(here.clientWidth || 900)}`));
    if (!answer.ok || mine !== asked) return;
    const data = await answer.json();
    shown = [data.from, data.to];
    build(data);
    here.dataset.shown = shown.map((x) => x.toFixed(1)).join(" ");
    say();
    if (!first) { history.replaceState(null, "", address(location.pathname, shown)); measure(shown); }
  };
  const MOVES = {
    in: (a, b) => [a + (b - a) / 4, b - (b - a) / 4], out: (a, b) => [a - (b - a) / 2, b + (b - a) / 2],
    left: (a, b) => [a - (b - a) / 2, b - (b - a) / 2], right: (a, b) => [a + (b - a) / 2, b + (b - a) / 2],
    whole: () => page.whole,
  };
  document.addEventListener("click", (event) => {
    const move = event.target.closest("[data-strip]"), to = event.target.closest("[data-strip-to]");
    if (move) go(MOVES[move.dataset.strip](...shown));
    if (to && !event.ctrlKey && !event.metaKey) { event.preventDefault(); go(to.dataset.stripTo.split(" ").map(Number)); }
  });
  let resizing = 0;
  addEventListener("resize", () => { clearTimeout(resizing); resizing = setTimeout(() => go(shown, true), 150); });
  new MutationObserver(() => go(shown, true)).observe(document.documentElement, { attributeFilter: ["data-theme"] });
  here.hidden = bar.hidden = false;
  still.classList.add("only-print");
  go(shown, true);
})();
