// Photos on the bench: the camera at an entry, or a picture dropped on it. Without this file the page of photos does the same.
"use strict";
(() => {
  const form = document.querySelector("[data-take-photo], [data-drop-photo]");
  if (!form) return;
  const box = form.querySelector("input[type=file]"), entry = form.querySelector("[name=entry]");
  const onBench = form.matches("[data-take-photo]");
  const pictures = (event) => [...event.dataTransfer.types].includes("Files");
  const send = () => { if (onBench) form.requestSubmit(); else form.submit(); };
  document.addEventListener("click", (event) => {
    const asked = event.target.closest("[data-photo]");
    if (!asked || !onBench) return;
    event.preventDefault();
    entry.value = asked.dataset.photo;
    box.click();
  });
  if (onBench) box.addEventListener("change", () => { if (box.files.length) send(); });
  addEventListener("dragover", (event) => { if (pictures(event)) event.preventDefault(); });
  addEventListener("drop", (event) => {
    if (!event.dataTransfer.files.length) return;
    event.preventDefault();
    const on = event.target.closest("[data-entry]");
    if (onBench) entry.value = on ? on.dataset.entry : "";
    box.files = event.dataTransfer.files;
    send();
  });
  document.addEventListener("htmx:afterRequest", (event) => { if (event.target === form) form.reset(); });
})();
