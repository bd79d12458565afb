// What was typed into a sheet reaches the server before the page is left or the key is turned: links, buttons and the switch wait for the
// answers still due, and a figure that was refused keeps the page. Leaving by other ways the browser asks.
(() => {
  const LONGEST_MS = 10000;
  let enough = false; // waited the longest: go, and let the browser ask
  const due = () => !enough && (window.hand.busy() || document.querySelector("[data-sheet] form[data-due]"));
  const keySwitch = (el) => el.closest && el.closest("#key-switch");
  let waiting = []; // what was pressed; the form that leaves the page is the last of it: a link after it would break it off
  let late;

  const go = () => { clearTimeout(late); const next = waiting; waiting = []; for (const step of next) step(); };
  const wait = (step) => { if (waiting.at(-1)?.last) return; waiting.push(step); clearTimeout(late); late = setTimeout(() => { enough = true; go(); enough = false; }, LONGEST_MS); };

  document.addEventListener("change", (event) => {
    const form = event.target.form;
    if (form && form.matches("[data-sheet] form[hx-trigger*=change]")) form.dataset.due = Number(form.dataset.due || 0) + 1;
  }, true);

  document.addEventListener("htmx:afterRequest", (event) => {
    const form = event.target;
    if (form.dataset.due) {
      if (form.dataset.due > 1) form.dataset.due -= 1; else delete form.dataset.due;
      const taken = (event.detail.xhr.getResponseHeader("HX-Trigger") || "").includes("job-changed");
      if (!taken && waiting.length) { waiting = []; form.querySelector("[data-cell]").focus(); }
    }
    if (!due() && waiting.length) setTimeout(go, 0);
  });

  document.addEventListener("hand:sent", () => { if (!due() && waiting.length) setTimeout(go, 0); });

  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href]");
    const elsewhere = event.ctrlKey || event.metaKey || event.shiftKey || event.altKey || event.button;
    if (!link || elsewhere || link.getAttribute("target") || link.getAttribute("href").startsWith("#") || event.defaultPrevented || !due()) return;
    event.preventDefault();
    wait(() => link.dispatchEvent(new MouseEvent("click", event)));
  });

  document.addEventListener("submit", (event) => {
    if (event.defaultPrevented || !due()) return;
    event.preventDefault();
    const { target: form, submitter } = event;
    wait(Object.assign(() => form.requestSubmit(submitter), { last: true }));
  });

  document.addEventListener("htmx:confirm", (event) => {
    if (!keySwitch(event.target) || !due()) return;
    event.preventDefault();
    wait(() => event.detail.issueRequest(true));
  });

  // A sheet that the turned key is about to replace takes nothing more.
  const rest = (still) => { const live = document.getElementById("live"); if (live) live.inert = still; };
  document.addEventListener("htmx:beforeRequest", (event) => { if (keySwitch(event.target)) rest(true); });
  document.addEventListener("htmx:afterRequest", (event) => { if (keySwitch(event.target)) rest(false); });

  // What follows from a sheet is shown for the key as it stands, and not under what waits to be pressed: else it is asked for anew.
  const stands = () => document.getElementById("switch-state").textContent;
  document.addEventListener("htmx:beforeRequest", (event) => { if (event.target.matches("[data-follows]")) event.target.dataset.follows = stands(); });
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (!event.target.matches("[data-follows]") || (event.target.dataset.follows === stands() && !waiting.length)) return;
    event.detail.shouldSwap = false;
    window.htmx.trigger(document.body, "job-changed");
  });

  window.addEventListener("beforeunload", (event) => { if (document.querySelector("form[data-due]")) event.preventDefault(); });
})();
