// Notes dropped on the board or on the page of notes: put into the form that takes them, and told back.
(() => {
  const form = document.querySelector("[data-drop-notes], [data-drop]");
  if (!form) return;
  const box = form.querySelector("input[type=file]");
  const over = (on) => document.body.classList.toggle("dropping", on);
  addEventListener("dragover", (event) => { if ([...event.dataTransfer.types].includes("Files")) { event.preventDefault(); over(true); } });
  addEventListener("dragleave", (event) => { if (!event.relatedTarget) over(false); });
  addEventListener("drop", (event) => {
    if (!event.dataTransfer.files.length) return;
    event.preventDefault();
    over(false);
    box.files = event.dataTransfer.files;
    form.requestSubmit(form.querySelector("button[value=look]") || undefined);
  });
})();
