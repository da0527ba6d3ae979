/* Pages that wait for long work. */
"use strict";
/* A file that was written while its page waited is fetched by itself. */
document.addEventListener("DOMContentLoaded", () => document.querySelector("[data-fetch]")?.click());
/* What is stopped or tried again leads back to the page that waits, not to the part of it that was fetched. */
document.addEventListener("submit", (event) => {
  const back = event.target.querySelector?.("[data-here]");
  if (back) back.value = location.pathname + location.search;
});
