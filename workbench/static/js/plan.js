// The plan: the chosen run is taken by a grip or by its line and dropped on a zone; Enter on a zone does the same.
(() => {
  const send = (zone) => {
    const form = document.getElementById("plan-via");
    if (form && form.elements.run.value && zone) window.hand.leave("plan-via", { zone }, `[data-zone="${CSS.escape(zone)}"]`);
  };

  // The boxes lie under lines and words, so a zone is found by its place, not by what is on top of it.
  const zoneAt = (x, y) => [...document.querySelectorAll("[data-zone]")].find((zone) => {
    const box = zone.querySelector("rect").getBoundingClientRect();
    return x >= box.left && x <= box.right && y >= box.top && y <= box.bottom;
  });

  let drag = null;
  const over = (zone) => { for (const el of document.querySelectorAll("[data-zone]")) el.classList.toggle("under", el === zone); };
  document.addEventListener("pointerdown", (event) => {
    const run = event.target.closest("[data-run]");
    if (!run || event.button || drag) return;
    drag = { id: event.pointerId, from: zoneAt(event.clientX, event.clientY) };
    window.hand.take();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag || event.pointerId !== drag.id) return;
    event.preventDefault();
    over(zoneAt(event.clientX, event.clientY));
  });
  document.addEventListener("pointerup", (event) => {
    if (!drag || event.pointerId !== drag.id) return;
    const zone = zoneAt(event.clientX, event.clientY);
    over(null);
    const away = zone && zone !== drag.from;
    drag = null;
    if (away) send(zone.dataset.zone);
    else window.hand.drop();
  });
  document.addEventListener("pointercancel", () => {
    if (!drag) return;
    over(null);
    drag = null;
    window.hand.drop();
  });
  document.addEventListener("keydown", (event) => {
    const zone = event.target.closest && event.target.closest("[data-zone]");
    if (!zone) return;
    if (event.key === "Enter" || event.key === " ") { event.preventDefault(); send(zone.dataset.zone); }
    const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!steps) return;
    event.preventDefault();
    const at = zone.querySelector("rect").getBoundingClientRect();
    const middle = (box) => [box.left + box.width / 2, box.top + box.height / 2];
    const [x, y] = middle(at);
    const [next] = [...document.querySelectorAll("[data-zone]")].filter((el) => el !== zone).map((el) => {
      const [u, v] = middle(el.querySelector("rect").getBoundingClientRect());
      const along = (u - x) * steps[0] + (v - y) * steps[1], aside = Math.abs((u - x) * steps[1]) + Math.abs((v - y) * steps[0]);
      return { el, far: along + 2 * aside, along };
    }).filter((one) => one.along > 1).sort((a, b) => a.far - b.far);
    if (next) next.el.focus();
  });
})();
