// Dots on a photograph: two known distances and an outline, written into the form as one would type them.
(() => {
  const box = document.querySelector("[data-trace]");
  const form = document.getElementById("trace-form");
  if (!box || !form) return;
  const tools = document.querySelector("[data-trace-tools]");
  tools.hidden = false;
  const svg = box.querySelector("svg");
  const field = (name) => form.elements[name];
  let tool = "first";
  const marks = document.createElementNS("http://www.w3.org/2000/svg", "g");
  svg.append(marks);

  const dots = (name) => field(name).value.split(name === "dots" ? "\n" : "/").map((words) => words.trim()).filter(Boolean).map((words) => words.split(/[\s,;]+/).map(Number)).filter((dot) => dot.length === 2 && dot.every(Number.isFinite));
  const write = (name, found) => { field(name).value = found.map(([x, y]) => `${x.toFixed(0)} ${y.toFixed(0)}`).join(name === "dots" ? "\n" : " / "); };
  const shape = (kind, attributes, css) => {
    const el = document.createElementNS("http://www.w3.org/2000/svg", kind);
    for (const [name, value] of Object.entries(attributes)) el.setAttribute(name, value);
    el.setAttribute("class", css);
    marks.append(el);
  };
  const draw = () => {
    marks.replaceChildren();
    const r = Math.max(Number(box.dataset.wide), Number(box.dataset.high)) / 160;
    for (const name of ["first", "second", "dots"]) {
      const found = dots(name);
      if (found.length > 1) shape(name === "dots" ? "polygon" : "polyline", { points: found.map((dot) => dot.join(",")).join(" "), "stroke-width": r / 2 }, `trace-line ${name}`);
      for (const [x, y] of found) shape("circle", { cx: x, cy: y, r }, `trace-dot ${name}`);
    }
  };
  tools.addEventListener("click", (event) => {
    const button = event.target.closest("[data-tool]");
    if (!button) return;
    if (button.dataset.tool === "undo") write(tool, dots(tool).slice(0, -1));
    else {
      tool = button.dataset.tool;
      for (const one of tools.querySelectorAll("[aria-pressed]")) one.setAttribute("aria-pressed", String(one === button));
    }
    draw();
  });
  svg.addEventListener("click", (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const found = dots(tool);
    if (tool !== "dots" && found.length > 1) found.length = 0;
    found.push([at.x, at.y]);
    write(tool, found);
    draw();
  });
  form.addEventListener("input", draw);
  draw();
})();
