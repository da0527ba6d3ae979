/* What happened, as lines across a strip: a trip drawn through, anything else dashed. Both strips draw it so. */
"use strict";
window.drawFlags = (u, flags, colour) => {
  const ctx = u.ctx, [low, high] = [u.scales.x.min, u.scales.x.max];
  ctx.save();
  ctx.lineWidth = devicePixelRatio;
  for (const flag of flags) {
    if (flag.t < low || flag.t > high) continue;
    const x = Math.round(u.valToPos(flag.t, "x", true));
    ctx.strokeStyle = colour(flag.css === "trip" ? "--rust" : "--gorse");
    ctx.setLineDash(flag.css === "trip" ? [] : [4 * devicePixelRatio, 3 * devicePixelRatio]);
    ctx.beginPath(); ctx.moveTo(x, u.bbox.top); ctx.lineTo(x, u.bbox.top + u.bbox.height); ctx.stroke();
  }
  ctx.restore();
};
