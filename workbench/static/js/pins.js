// Pins on a flow path: dragged by mouse, touch or arrow keys. The verdict comes from the server and follows the pin.
(() => {
  const STEP_M = 0.005, LEAP_M = 0.05;
  const stage = () => document.querySelector("[data-pins]");
  const place = (svg, pin, at) => {
    const metres = Math.min(Math.max(at, 0), Number(svg.dataset.length));
    pin.dataset.at = metres.toFixed(4);
    pin.setAttribute("transform", `translate(${Number(svg.dataset.x0) + metres * Number(svg.dataset.perM)} 0)`);
    pin.setAttribute("aria-valuenow", String(Math.round(metres * 1000)));
  };

  let asked = null, waiting = false;
  const ask = async (pin) => {
    asked = pin;
    if (waiting) return;
    waiting = true;
    while (asked) {
      const now = asked;
      asked = null;
      const query = new URLSearchParams({ channel: stage().dataset.channel, pin: now.dataset.pin, at: now.dataset.at });
      try {
        const answer = await fetch(`${stage().dataset.verdict}?${query}`, { headers: { "HX-Request": "true" } });
        const words = await answer.text();
        const box = document.getElementById("verdict");
        if (answer.ok && box) box.innerHTML = words;
        const grade = box && box.querySelector("[data-grade]");
        if (grade) {
          now.classList.remove("good", "caution", "stop");
          now.classList.add(grade.dataset.grade);
          now.setAttribute("aria-valuetext", `${now.getAttribute("aria-valuenow")} mm, ${grade.dataset.grade}`);
          for (const el of now.querySelectorAll(".pin-line, .pin-head, .pin-chosen")) { el.classList.remove("good", "caution", "stop"); el.classList.add(grade.dataset.grade); }
        }
      } catch { /* the next move asks again */ }
    }
    waiting = false;
  };

  const leave = ({ dataset: { pin, at } }) => window.hand.leave("pin-move", { pin, at }, `[data-pin="${CSS.escape(pin)}"]`);
  const keys = window.hand.keys(leave, 500);

  const unmeasured = (svg) => {
    if (svg.dataset.length) return false;
    const box = document.getElementById("verdict");
    if (box) box.textContent = "This path has no scale yet: measure its length on Flow paths, then the pins can be moved.";
    return true;
  };

  let drag = null;
  document.addEventListener("pointerdown", (event) => {
    const pin = event.target.closest("[data-pin]");
    if (!pin || event.button || drag) return;
    const svg = pin.ownerSVGElement;
    keys.rest();
    pin.focus();
    if (unmeasured(svg)) return;
    event.preventDefault();
    window.hand.take();
    pin.setPointerCapture(event.pointerId);
    drag = { pin, svg, from: Number(pin.dataset.at), x: event.clientX, moved: false };
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const wide = drag.svg.getBoundingClientRect().width / drag.svg.viewBox.baseVal.width;
    const at = drag.from + (event.clientX - drag.x) / wide / Number(drag.svg.dataset.perM);
    if (Math.abs(event.clientX - drag.x) > 3) drag.moved = true;
    if (!drag.moved) return;
    place(drag.svg, drag.pin, Math.round(at / STEP_M) * STEP_M);
    ask(drag.pin);
  });
  const drop = () => {
    if (!drag) return;
    const { pin, moved } = drag;
    drag = null;
    if (moved) leave(pin);
    else window.location.search = new URLSearchParams({ channel: stage().dataset.channel, pin: pin.dataset.pin });
  };
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", () => {
    if (!drag) return;
    place(drag.svg, drag.pin, drag.from);
    drag = null;
    window.hand.drop();
  });

  document.addEventListener("keydown", (event) => {
    const pin = event.target.closest && event.target.closest("[data-pin]");
    if (!pin) return;
    const svg = pin.ownerSVGElement;
    const by = { ArrowRight: STEP_M, ArrowUp: STEP_M, ArrowLeft: -STEP_M, ArrowDown: -STEP_M, PageUp: LEAP_M, PageDown: -LEAP_M }[event.key];
    if (event.key === "Enter") {
      event.preventDefault();
      keys.rest();
      window.hand.then(() => { window.location.search = new URLSearchParams({ channel: stage().dataset.channel, pin: pin.dataset.pin }); });
      return;
    }
    if (by === undefined) return;
    event.preventDefault();
    if (unmeasured(svg)) return;
    keys.held(pin.dataset.pin);
    place(svg, pin, Number(pin.dataset.at) + by);
    ask(pin);
    keys.move(pin.dataset.pin, pin);
  });
})();
