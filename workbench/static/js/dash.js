// A page of a display: faces moved from cell to cell by mouse, touch or arrow keys; a made-up drive played on them.
(() => {
  const stage = () => document.querySelector("[data-page]");
  const drawing = () => stage() && stage().querySelector("svg");
  const faceOf = (key) => drawing() && drawing().querySelector(`[data-face="${CSS.escape(key)}"]`);

  // What a moment does to a face.
  const show = (face, [text, share, lit], trail) => {
    const words = face.querySelector(".face-text");
    if (words) words.textContent = text;
    const needle = face.querySelector(".needle");
    if (needle) {
      const turn = Number(needle.dataset.start) + (share ?? 0) * Number(needle.dataset.sweep);
      needle.setAttribute("transform", `rotate(${turn.toFixed(2)} ${needle.dataset.centre})`);
      needle.classList.toggle("parked", share === null);
    }
    const bar = face.querySelector(".bar-fill");
    if (bar) bar.firstElementChild.setAttribute("width", String((share ?? 0) * Number(bar.dataset.w)));
    const trend = face.querySelector(".trend");
    if (trend && trail) {
      const [x, y, w, h] = trend.dataset.box.split(" ").map(Number);
      const steps = trail.map((one, i) => (one === null ? "" : `${(x + w * i / Math.max(trail.length - 1, 1)).toFixed(1)} ${(y + h * (1 - one)).toFixed(1)}`)).filter(Boolean);
      trend.firstElementChild.setAttribute("d", steps.length ? `M${steps.join("L")}` : "");
    }
    for (const lamp of face.querySelectorAll(".lamp, .warned")) {
      lamp.classList.toggle("lit", Boolean(lit));
      const glass = lamp.firstElementChild;
      const paint = lamp.dataset.paint || "#A3211B";
      glass.setAttribute("fill", lit ? paint : "none");
      if (lamp.classList.contains("warned")) glass.setAttribute("stroke", lit ? paint : "none");
    }
  };

  const player = document.querySelector("[data-play]");
  if (player) {
    player.hidden = false;
    const [button, mishap, slider] = [player.querySelector("[data-do=play]"), player.querySelector("select"), player.querySelector("input[type=range]")];
    const [second, words] = [player.querySelector("[data-second]"), player.querySelector("[data-words]")];
    const drives = {};
    let timer = 0;
    const TRAIL = 120;
    const at = (index) => {
      const drive = drives[mishap.value];
      if (!drive) return;
      const [seconds, said, faces] = drive.moments[index];
      drive.faces.forEach((key, i) => {
        const face = faceOf(key);
        const trail = drive.moments.slice(Math.max(0, index - TRAIL), index + 1).map((moment) => moment[2][i][1]);
        if (face) show(face, faces[i], trail);
      });
      second.textContent = `${seconds.toFixed(0)} s`;
      const lit = drive.faces.filter((_, i) => faces[i][2]).length;
      words.textContent = said + (lit ? `: ${lit} warning${lit > 1 ? "s" : ""} lit` : "");
      slider.value = String(index);
    };
    const stop = () => { window.clearInterval(timer); timer = 0; button.setAttribute("aria-pressed", "false"); button.textContent = "Drive it"; };
    const load = async () => {
      if (!drives[mishap.value]) {
        const query = new URLSearchParams({ display: player.dataset.display, page: player.dataset.pageKey, mishap: mishap.value });
        try {
          const answer = await fetch(`${player.dataset.drive}?${query}`);
          if (!answer.ok) throw new Error(String(answer.status));
          drives[mishap.value] = await answer.json();
        } catch { words.textContent = "The drive did not come: try again."; return null; }
      }
      const drive = drives[mishap.value];
      slider.max = String(drive.moments.length - 1);
      return drive;
    };
    button.addEventListener("click", async () => {
      if (timer) { stop(); return; }
      const drive = await load();
      if (!drive) return;
      let index = Number(slider.value) >= drive.moments.length - 1 ? 0 : Number(slider.value);
      button.setAttribute("aria-pressed", "true");
      button.textContent = "Stop";
      timer = window.setInterval(() => {
        at(index);
        index += 1;
        if (index >= drive.moments.length) {
          stop();
          if (drive.first) words.textContent = `First warning ${drive.first[0].toFixed(0)} s after: ${drive.first[1]}`;
          else if (mishap.value !== "none") words.textContent = "No warning came.";
        }
      }, 120);
    });
    slider.addEventListener("input", async () => { stop(); if (await load()) at(Number(slider.value)); });
    mishap.addEventListener("change", async () => { stop(); if (await load()) at(Number(slider.value)); });
  }

  // Faces moved on their grid.
  const grid = () => drawing().dataset.grid.split(" ").map(Number);
  const reads = () => document.querySelector("[data-reads]");
  // The face stands at its new cell at once; where it was drawn is kept, so that the next move counts from there.
  const leave = (face, column, row) => {
    const [, , w, h] = grid();
    const drawn = (face.dataset.drawn ||= `${face.dataset.column} ${face.dataset.row}`).split(" ").map(Number);
    [face.dataset.column, face.dataset.row] = [Math.max(1, column), Math.max(1, row)];
    face.setAttribute("transform", `translate(${(face.dataset.column - drawn[0]) * w} ${(face.dataset.row - drawn[1]) * h})`);
    const { face: key, column: across, row: down } = face.dataset;
    window.hand.leave("face-move", { face: key, column: across, row: down }, `[data-face="${CSS.escape(key)}"]`);
  };
  const point = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing().getScreenCTM().inverse());
  const choose = (face) => { window.location.search = new URLSearchParams({ face: face.dataset.face }); };
  let drag = null;
  document.addEventListener("pointerdown", (event) => {
    const face = event.target.closest && event.target.closest("[data-column]");
    if (!face || event.button || drag || reads()) return;
    drag = { face, id: event.pointerId, from: point(event), by: [0, 0], was: face.getAttribute("transform") };
    window.hand.take();
    face.focus();
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag || event.pointerId !== drag.id) return;
    const at = point(event);
    const [, , w, h] = grid();
    drag.by = [at.x - drag.from.x, at.y - drag.from.y];
    drag.face.setAttribute("transform", `translate(${drag.by[0].toFixed(1)} ${drag.by[1].toFixed(1)})`);
    drag.cells = [Math.round(drag.by[0] / w), Math.round(drag.by[1] / h)];
  });
  document.addEventListener("pointerup", (event) => {
    if (!drag || event.pointerId !== drag.id) return;
    const { face, cells, by } = drag;
    if (cells && (cells[0] || cells[1])) { drag = null; leave(face, Number(face.dataset.column) + cells[0], Number(face.dataset.row) + cells[1]); }
    else if (Math.hypot(...by) < 4) choose(face);
    else putBack();
  });
  const putBack = () => {
    if (!drag) return;
    drag.face.setAttribute("transform", drag.was || "");
    drag = null;
    window.hand.drop();
  };
  document.addEventListener("pointercancel", putBack);
  document.addEventListener("keydown", (event) => {
    const face = event.target.closest && event.target.closest("[data-column]");
    if (!face || reads()) return;
    if (event.key === "Enter") { event.preventDefault(); choose(face); return; }
    const way = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way) return;
    event.preventDefault();
    leave(face, Number(face.dataset.column) + way[0], Number(face.dataset.row) + way[1]);
  });
})();
