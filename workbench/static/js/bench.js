// Keys, sheets and small manners of the pages. No arithmetic lives here.
(() => {
  const typing = (el) => el.matches("input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable]");
  const click = (selector) => { const el = document.querySelector(selector); if (el) el.click(); return Boolean(el); };

  const stepSwitch = (name) => {
    const buttons = [...document.querySelectorAll(`#key-switch button[name=${name}]`)];
    const now = buttons.findIndex((b) => b.getAttribute("aria-pressed") === "true");
    if (buttons.length) buttons[(now + 1) % buttons.length].click();
  };

  // The buttons stay where they are while the page's figures change; what is pressed follows the server's word.
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    if (event.detail.target.id !== "switch-state") return;
    for (const [name, word] of Object.entries(document.getElementById("switch-state").dataset)) {
      for (const button of document.querySelectorAll(`#key-switch button[name=${name}]`)) button.setAttribute("aria-pressed", String(word.split("\n").includes(button.value)));
    }
  });

  // On a narrow screen the switch is one line that tells how it stands and opens; without scripts it is always open.
  document.addEventListener("DOMContentLoaded", () => {
    const form = document.getElementById("key-switch");
    if (!form) return;
    const line = form.querySelector(".switch-line");
    form.classList.add("closable");
    line.addEventListener("click", () => line.setAttribute("aria-expanded", String(form.classList.toggle("open"))));
  });

  // Who may only read is not offered what would be refused; the key switch is their own.
  const onlyReads = () => {
    if (!document.querySelector("[data-reads]")) return;
    for (const el of document.querySelectorAll("#work form[method=post] :is(button, input, select, textarea), #findings form[method=post] button")) el.disabled = true;
  };
  document.addEventListener("DOMContentLoaded", onlyReads);
  document.addEventListener("htmx:afterSettle", onlyReads);

  // A file may take some seconds to be read: the button says so, and cannot be pressed twice.
  document.addEventListener("submit", (event) => {
    const form = event.target;
    const button = event.submitter;
    if (!button || ![...form.querySelectorAll("input[type=file]")].some((input) => input.files.length)) return;
    button.dataset.words = button.textContent;
    setTimeout(() => { button.disabled = true; button.textContent = "Reading the file…"; button.setAttribute("aria-busy", "true"); }, 0);
  });
  window.addEventListener("pageshow", () => {
    for (const button of document.querySelectorAll("button[aria-busy]")) { button.disabled = false; button.textContent = button.dataset.words; button.removeAttribute("aria-busy"); }
  });

  const stepChannel = (by) => {
    const tabs = [...document.querySelectorAll("[data-channel-tab]")];
    const now = tabs.findIndex((t) => t.getAttribute("aria-current") === "true");
    const next = tabs[now + by];
    if (next) next.click();
  };

  // With many channels the tab one is at may lie out of sight.
  document.addEventListener("DOMContentLoaded", () => {
    const here = document.querySelector(".tabs [aria-current]");
    if (here) here.parentElement.scrollLeft = here.offsetLeft - here.parentElement.offsetLeft - 40;
  });

  let afterG = false;

  document.addEventListener("keydown", (event) => {
    const el = event.target;
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape" && typing(el)) { el.blur(); return; }
    if (typing(el)) {
      if (event.key === "Enter" && el.matches("[data-cell]")) {
        event.preventDefault();
        nextCell(el, event.shiftKey ? -1 : 1);
      } else if (el.matches("input[data-cell]") && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
        event.preventDefault();
        cellBelow(el, event.key === "ArrowDown" ? 1 : -1);
      }
      return;
    }
    if (afterG) {
      afterG = false;
      if (event.key === "c") click(".spine a");
      else if (/^[a-z]$/.test(event.key)) click(`.spine a[data-go="${event.key}"]`);
      return;
    }
    switch (event.key) {
      case "g": afterG = true; break;
      case "k": stepSwitch("key"); break;
      case "l": stepSwitch("lamps"); break;
      case "e": stepSwitch("engine"); break;
      case "[": stepChannel(-1); break;
      case "]": stepChannel(1); break;
      case "?": document.getElementById("keys").showModal(); break;
      case "/": {
        const search = document.querySelector("[data-search]");
        if (search) { event.preventDefault(); search.focus(); } else click(".brand");
        break;
      }
      default: return;
    }
  });

  // What is usually found is typed by one tap.
  document.addEventListener("click", (event) => {
    const tap = event.target.closest("[data-types]");
    if (!tap) return;
    const cell = tap.closest("td").querySelector("[data-cell]");
    cell.value = tap.dataset.types;
    cell.dispatchEvent(new Event("change", { bubbles: true }));
  });

  // A sheet is walked by Enter (next cell) and the arrows (same column); leaving a cell saves it.
  const alike = (place, el) => [...place.querySelectorAll("[data-cell]")].filter((cell) => cell.dataset.cell === el.dataset.cell);
  const cells = (el) => alike(el.closest("[data-sheet]"), el);
  const focusCell = (el) => { if (el) { el.focus(); if (el.select) el.select(); } };
  const nextCell = (el, by) => { const all = cells(el); const next = all[all.indexOf(el) + by]; if (next) focusCell(next); else el.blur(); };
  const cellBelow = (el, by) => {
    const rows = [...el.closest("[data-sheet]").querySelectorAll("tr")].filter((row) => alike(row, el).length);
    const row = el.closest("tr");
    const column = alike(row, el).indexOf(el);
    const other = rows[rows.indexOf(row) + by];
    focusCell(other && alike(other, el)[column]);
  };

  // A row that was added makes place for the next one.
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    if (event.detail.target.id === "probe-new") focusCell(document.querySelector("#probe-new input[name=purpose]"));
  });

  // A fuse panel is walked by the arrows, slot by slot as they lie.
  document.addEventListener("keydown", (event) => {
    const slot = event.target.closest && event.target.closest(".panel a[data-row]");
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
    if (!slot || !step) return;
    event.preventDefault();
    const next = slot.closest("svg").querySelector(`a[data-row="${Number(slot.dataset.row) + step[0]}"][data-column="${Number(slot.dataset.column) + step[1]}"]`);
    if (next) next.focus();
  });

  document.addEventListener("click", (event) => {
    const target = event.target.closest("[data-confirm], [data-theme-toggle], [data-keys]");
    if (!target) return;
    if (target.matches("[data-keys]")) document.getElementById("keys").showModal();
    else if (target.matches("[data-theme-toggle]")) {
      const root = document.documentElement;
      const night = root.dataset.bsTheme !== "dark";
      root.dataset.bsTheme = night ? "dark" : "light";
      try { localStorage.setItem("metrolex-theme", night ? "night" : "day"); } catch { /* private window */ }
    } else if (!window.confirm(target.dataset.confirm)) event.preventDefault();
  });

  // A file of columns goes into its field as if pasted, to be looked at before it is saved.
  document.addEventListener("change", async (event) => {
    const field = event.target.dataset && event.target.dataset.into && document.getElementById(event.target.dataset.into);
    const file = field && event.target.files[0];
    if (!file) return;
    event.target.value = "";
    if (file.size > 150000) { say(`${file.name} is larger than 150 kB: fewer points, please.`); return; }
    const bytes = await file.arrayBuffer();
    let text;
    try { text = new TextDecoder("utf-8", { fatal: true }).decode(bytes); } catch { text = new TextDecoder("windows-1252").decode(bytes); }
    field.value = text;
    field.focus();
  });

  // What was typed and could not be sent is not lost: it stays, and the page says so.
  const asked = (event) => event.detail.requestConfig.verb === "get";
  document.addEventListener("htmx:sendError", (event) => say(asked(event)
    ? "No connection: part of this page is missing. Load it again."
    : "Not sent: no connection. What you typed is still here; leave the cell again to send it."));
  document.addEventListener("htmx:responseError", (event) => say(asked(event)
    ? `Part of this page is missing (${event.detail.xhr.status}). Load it again.`
    : `Not saved (${event.detail.xhr.status}). What you typed is still here.`));
  document.addEventListener("htmx:beforeRequest", () => say(""));
  const say = (words) => {
    const line = document.getElementById("line-state");
    line.textContent = words;
    line.hidden = !words;
  };

  document.addEventListener("alpine:init", () => {
    // Which fields a sender's law needs.
    window.Alpine.data("law", () => ({
      kind: "table",
      init() {
        const select = this.$el.querySelector("[name=kind]");
        this.kind = select.value;
        select.addEventListener("change", () => { this.kind = select.value; });
      },
      get byPoints() { return this.kind === "table" || this.kind === "linear"; },
      get byBeta() { return this.kind === "beta"; },
      get byCoefficients() { return this.kind === "steinhart_hart"; },
      get byCouple() { return this.kind === "thermocouple"; },
    }));
  });
})();
