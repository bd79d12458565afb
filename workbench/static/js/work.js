// The work order at the vehicle: clocks of what rests, and notes that wait here for a network.
(() => {
  const KEPT = "metrolex-kept";
  const keptPosts = () => { try { return (JSON.parse(localStorage.getItem(KEPT)) || []).map((post, i) => ({ id: i + 1, seen: "", over: "", ...post })); } catch { return []; } };
  const keep = (posts) => { try { localStorage.setItem(KEPT, JSON.stringify(posts)); } catch { /* private window: nothing is kept */ } show(); };
  const here = () => location.pathname;
  const two = (n) => String(n).padStart(2, "0");
  // A moment with its distance from UTC: a telephone in another zone than the server's means the same instant.
  const moment = (d) => {
    const ahead = -d.getTimezoneOffset();
    const zone = `${ahead < 0 ? "-" : "+"}${two(Math.floor(Math.abs(ahead) / 60))}:${two(Math.abs(ahead) % 60)}`;
    return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}T${two(d.getHours())}:${two(d.getMinutes())}:${two(d.getSeconds())}${zone}`;
  };
  const token = () => document.querySelector("input[name=csrfmiddlewaretoken]").value;

  // What could not be sent is kept with the moment it was noted; a start and the done after it are two notes.
  let last = 0;
  document.addEventListener("htmx:sendError", (event) => {
    const form = event.target.closest("form");
    const found = event.detail.requestConfig.parameters;
    const value = (name) => (found.get ? found.get(name) : found[name]);
    if (!form || !form.closest("#live")) return;
    last = Math.max(last + 1, Date.now());
    keep([...keptPosts(), { id: last, page: here(), to: form.getAttribute("action"), step: value("step"), found: value("found"), seen: value("seen"), at: moment(new Date()), wrong: "", over: "" }]);
  });

  // Sent one after the other; what somebody else noted meanwhile is shown beside, and nothing is lost. What this telephone stored it has seen.
  let sending = false;
  const send = async () => {
    if (sending || !navigator.onLine) return;
    sending = true;
    let sent = 0;
    const tried = new Set();
    for (;;) {
      const post = keptPosts().find((one) => one.page === here() && !one.wrong && !tried.has(one.id));
      if (!post) break;
      tried.add(post.id);
      const body = new URLSearchParams({ csrfmiddlewaretoken: token(), step: post.step, found: post.found, seen: post.seen, at: post.at, clock: moment(new Date()), over: post.over });
      try {
        const answer = await fetch(post.to, { method: "POST", body, headers: { "HX-Request": "true" } });
        const page = new DOMParser().parseFromString(await answer.text(), "text/html");
        const wrong = answer.ok ? [...page.querySelectorAll(".error, [role=alert]")].map((el) => el.textContent.trim()).join(" ") : `Not taken (${answer.status}).`;
        const [stored, told] = ["Job-Version", "Job-Told"].map((name) => Number(answer.headers.get(name)));
        const late = page.querySelector("[data-late]");
        if (late && late.textContent.trim()) said(late.textContent.trim());
        keep(keptPosts().flatMap((one) => {
          if (one.id === post.id) return wrong ? [{ ...one, wrong, seen: told ? window.versions.toldOf(one.seen, told) : one.seen }] : [];
          return [stored && one.page === post.page ? { ...one, seen: window.versions.grown(one.seen, stored) } : one];
        }));
        if (wrong) break; // what was noted after it waits until it is settled
        sent += 1;
      } catch { break; }
    }
    sending = false;
    if (sent) window.htmx.trigger(document.body, "job-changed");
  };
  const said = (words) => {
    const line = document.getElementById("line-state");
    line.textContent = words;
    line.hidden = false;
  };

  const button = (words, press) => {
    const el = document.createElement("button");
    el.type = "button";
    el.className = "plain";
    el.textContent = words;
    el.addEventListener("click", press);
    return el;
  };

  const show = () => {
    const list = document.querySelector("[data-kept-here]");
    if (!list) return;
    const posts = keptPosts().filter((post) => post.page === here());
    list.hidden = !posts.length;
    list.replaceChildren(...posts.map((post) => {
      const item = document.createElement("li");
      item.append(`${post.at.slice(11, 16)} ${post.step}: ${post.found || "taken back"}. `, post.wrong || "Kept here until there is a network.");
      const others = () => keptPosts().filter((one) => one.id !== post.id);
      if (post.wrong) item.append(" ", button("Send mine all the same", () => { keep(keptPosts().map((one) => (one.id === post.id ? { ...one, wrong: "", over: "1" } : one))); send(); }));
      item.append(" ", button("Delete", () => { keep(others()); send(); }));
      return item;
    }));
  };

  // A note that is being written when its step is done stays with its step, whatever comes 'now'.
  const noteIn = (place) => place && place.querySelector("form.say-why");
  let writing = null;
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    if (event.detail.target.id !== "now") return;
    const form = noteIn(event.detail.target);
    writing = form && form.elements.found.value.trim() ? { form, focus: document.activeElement === form.elements.found } : null;
    if (writing) form.remove();
  });
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    if (event.detail.target.id !== "now" || !writing) return;
    const { form, focus } = writing;
    writing = null;
    const now = noteIn(document.getElementById("now"));
    const step = form.elements.step.value;
    if (now && now.elements.step.value === step) now.replaceWith(form);
    else {
      const box = document.querySelector("[data-notes-left]");
      const line = document.createElement("div");
      line.className = "note-left";
      const words = document.createElement("p");
      words.textContent = `For "${form.dataset.name}":`;
      const wrong = document.createElement("p");
      wrong.className = "error";
      form.elements.where.value = "";
      line.append(words, form, wrong, button("Delete this note", () => line.remove()));
      box.append(line);
      form.addEventListener("htmx:afterRequest", (done) => {
        const page = new DOMParser().parseFromString(done.detail.xhr.responseText, "text/html");
        const told = [...page.querySelectorAll(".error, [role=alert]")].map((el) => el.textContent.trim()).join(" ");
        if (done.detail.successful && !told) line.remove();
        else wrong.textContent = told;
      });
    }
    if (focus) form.elements.found.focus();
  });

  // A clock runs by the moment it ends at, so that a telephone that was closed is right when it is opened.
  // How far this device's clock is ahead of the server's: asked once, of a file nobody keeps.
  let ahead = 0;
  const script = document.currentScript.src;
  (async () => {
    try {
      const answer = await fetch(script, { method: "HEAD", cache: "no-store" });
      const off = Date.now() - new Date(answer.headers.get("Date")).getTime();
      if (Math.abs(off) > 90000) { ahead = off; tick(); }
    } catch { /* no network: its own clock is all there is */ }
  })();
  const tick = () => {
    let over = false;
    for (const el of document.querySelectorAll("[data-until]")) {
      const left = Math.ceil((new Date(el.dataset.until) - Date.now() - ahead) / 60000);
      if (left > 0) el.textContent = left >= 60 ? `${Math.floor(left / 60)} h ${two(left % 60)}` : `${left} min`;
      else if (!el.dataset.over) { el.dataset.over = "1"; el.textContent = "rested"; over = true; }
    }
    if (over) window.htmx.trigger(document.body, "job-changed");
  };

  document.addEventListener("DOMContentLoaded", () => { show(); tick(); send(); });
  document.addEventListener("htmx:oobAfterSwap", (event) => { if (event.detail.target.id === "now") { show(); tick(); } });
  window.addEventListener("online", send);
  setInterval(() => { tick(); send(); }, 20000);
})();
