// Rows of a display's table on its curve: dragged by mouse, touch or arrow keys. The error comes from the server and follows the row.
(() => {
  const box = () => document.querySelector("[data-rows]");
  const svg = () => box().querySelector("svg");
  const scale = () => svg().querySelector("[data-scale]").dataset;
  const NUMBERS = (data) => Object.fromEntries(Object.entries(data).map(([key, value]) => [key, Number(value)]));

  // Place in the drawing -> reading (across) and what comes in (up), and by how much one step of the arrows moves.
  const read = (px, py) => {
    const s = NUMBERS(scale());
    const y = s.low + (px - s.left) / (s.right - s.left) * (s.high - s.low);
    const up = s.bottom + (s.floor - py) / (s.floor - s.top) * (s.most - s.bottom);
    return { y: Math.min(Math.max(y, s.low), s.high), x: s.log ? 10 ** Math.min(up, s.most) : Math.max(Math.min(up, s.most), 0) };
  };

  let asked = null, waiting = false;
  const ask = async (row, x, y) => {
    asked = { row, x, y };
    if (waiting) return;
    waiting = true;
    while (asked) {
      const now = asked;
      asked = null;
      const query = new URLSearchParams({ channel: box().dataset.channel, row: now.row, x: now.x.toPrecision(8), y: now.y.toPrecision(8) });
      try {
        const answer = await fetch(`${box().dataset.try}?${query}`, { headers: { "HX-Request": "true" } });
        if (answer.ok) {
          box().innerHTML = await answer.text();
          const mark = box().querySelector(`[data-row="${now.row}"]`);
          if (mark) mark.focus({ preventScroll: true });
        }
      } catch { /* the next move asks again */ }
    }
    waiting = false;
  };

  const leave = ({ row, x, y }) => window.hand.leave("row-move", { row, x: x.toPrecision(8), y: y.toPrecision(8) }, `[data-rows] [data-row="${CSS.escape(row)}"]`);
  const keys = window.hand.keys(leave, 600);

  let drag = null;
  const point = (event) => {
    const view = svg().viewBox.baseVal, at = svg().getBoundingClientRect();
    return read((event.clientX - at.left) / at.width * view.width, (event.clientY - at.top) / at.height * view.height);
  };
  document.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest("[data-rows] [data-row]");
    if (!mark || event.button || drag) return;
    event.preventDefault();
    keys.rest();
    window.hand.take();
    mark.focus({ preventScroll: true });
    drag = { row: mark.dataset.row, x: event.clientX, y: event.clientY, moved: false };
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (Math.hypot(event.clientX - drag.x, event.clientY - drag.y) > 3) drag.moved = true;
    if (!drag.moved) return;
    event.preventDefault();
    const now = point(event);
    ask(drag.row, now.x, now.y);
  });
  document.addEventListener("pointerup", (event) => {
    if (!drag) return;
    const { row, moved } = drag;
    drag = null;
    if (moved) leave({ row, ...point(event) });
    else window.hand.drop();
  });
  document.addEventListener("pointercancel", () => { if (drag) window.location.reload(); });

  document.addEventListener("keydown", (event) => {
    const mark = event.target.closest && event.target.closest("[data-rows] [data-row]");
    const way = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!mark || !way) return;
    event.preventDefault();
    const s = NUMBERS(scale());
    const leap = event.shiftKey ? 10 : 1;
    const from = keys.held(mark.dataset.row) || { x: Number(mark.dataset.x), y: Number(mark.dataset.y) };
    const y = from.y + way[0] * leap * s.stepY;
    const x = s.log ? from.x * (1 + way[1] * leap * 0.005) + way[1] * (s.stepX > 0.005 * from.x ? s.stepX : 0) : from.x + way[1] * leap * s.stepX;
    const now = { row: mark.dataset.row, x: Math.max(x, 0), y };
    ask(now.row, now.x, now.y);
    keys.move(now.row, now);
  });
})();
