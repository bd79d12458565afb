// Displays in the front view: dragged by mouse or touch, moved by arrow keys. The verdict comes from the server and follows the hand.
(() => {
  const STEP_MM = 1, LEAP_MM = 10, TREMOR_PX = 3;
  const stage = () => document.querySelector("[data-mount]");
  const drawing = () => stage() && stage().querySelector("svg");
  const scale = () => Number(drawing().dataset.scale);
  const zero = () => drawing().dataset.zero.split(" ").map(Number);

  const place = (shown, x, y) => {
    const [x0, y0] = zero();
    shown.dataset.x = x.toFixed(1);
    shown.dataset.y = y.toFixed(1);
    shown.setAttribute("transform", `translate(${(x0 + x * scale()).toFixed(2)} ${(y0 - y * scale()).toFixed(2)})`);
  };

  let asked = null, waiting = false;
  const ask = async (shown) => {
    asked = shown;
    if (waiting) return;
    waiting = true;
    while (asked) {
      const now = asked;
      asked = null;
      const query = new URLSearchParams({ mounting: now.dataset.mounting, x: now.dataset.x, y: now.dataset.y });
      try {
        const answer = await fetch(`${stage().dataset.verdict}?${query}`, { headers: { "HX-Request": "true" } });
        const words = await answer.text();
        const box = document.getElementById("verdict");
        if (answer.ok && box) box.innerHTML = words;
        const grade = box && box.querySelector("[data-grade]");
        if (grade) {
          now.classList.remove("good", "caution", "stop");
          now.classList.add(grade.dataset.grade);
        }
      } catch { /* the next move asks again */ }
    }
    waiting = false;
  };

  const leave = ({ dataset: { mounting, x, y } }) => window.hand.leave("mount-move", { mounting, x, y }, `[data-mounting="${CSS.escape(mounting)}"]`);
  const keys = window.hand.keys(leave, 500);
  const reads = () => document.querySelector("[data-reads]");

  const point = (event) => {
    const svg = drawing();
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const [x0, y0] = zero();
    return [(at.x - x0) / scale(), (y0 - at.y) / scale()];
  };
  let drag = null;
  document.addEventListener("pointerdown", (event) => {
    const shown = event.target.closest && event.target.closest("[data-mounting]");
    if (!shown || event.button || drag || reads()) return;
    keys.rest();
    const [x, y] = point(event);
    drag = { shown, id: event.pointerId, dx: Number(shown.dataset.x) - x, dy: Number(shown.dataset.y) - y, from: { x: event.clientX, y: event.clientY }, was: [Number(shown.dataset.x), Number(shown.dataset.y)], moved: false };
    window.hand.take();
    shown.focus();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag || event.pointerId !== drag.id) return;
    const [x, y] = point(event);
    if (Math.hypot(event.clientX - drag.from.x, event.clientY - drag.from.y) > TREMOR_PX) drag.moved = true;
    if (!drag.moved) return;
    place(drag.shown, x + drag.dx, y + drag.dy);
    ask(drag.shown);
    event.preventDefault();
  });
  const drop = (event) => {
    if (!drag || event.pointerId !== drag.id) return;
    const { shown, moved } = drag;
    drag = null;
    if (moved) leave(shown);
    else window.location.search = new URLSearchParams({ mounting: shown.dataset.mounting });
  };
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", () => {
    if (!drag) return;
    place(drag.shown, ...drag.was);
    drag = null;
    window.hand.drop();
  });

  document.addEventListener("keydown", (event) => {
    const shown = event.target.closest && event.target.closest("[data-mounting]");
    if (!shown || reads()) return;
    if (event.key === "Enter") {
      event.preventDefault();
      keys.rest();
      window.hand.then(() => { window.location.search = new URLSearchParams({ mounting: shown.dataset.mounting }); });
      return;
    }
    const way = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way) return;
    event.preventDefault();
    const by = event.shiftKey ? LEAP_MM : STEP_MM;
    keys.held(shown.dataset.mounting);
    place(shown, Number(shown.dataset.x) + way[0] * by, Number(shown.dataset.y) + way[1] * by);
    ask(shown);
    keys.move(shown.dataset.mounting, shown);
  });
})();
