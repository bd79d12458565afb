// The work order at the vehicle: clocks of what rests, and notes that wait here for a network.
(() => {
  const KEPT = "metrolex-kept";
  const keptPosts = () => { try { return JSON.parse(localStorage.getItem(KEPT)) || []; } catch { return []; } };
  const keep = (posts) => { try { localStorage.setItem(KEPT, JSON.stringify(posts)); } catch { /* private window: nothing is kept */ } show(); };
  const here = () => location.pathname;
  const two = (n) => String(n).padStart(2, "0");
  const moment = (d) => `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}T${two(d.getHours())}:${two(d.getMinutes())}`;
  const token = () => document.querySelector("input[name=csrfmiddlewaretoken]").value;

  // What could not be sent is kept with the moment it was noted.
  document.addEventListener("htmx:sendError", (event) => {
    const form = event.target.closest("form");
    const found = event.detail.requestConfig.parameters;
    const value = (name) => (found.get ? found.get(name) : found[name]);
    if (!form || !form.closest("#live")) return;
    const step = value("step");
    const posts = keptPosts().filter((post) => post.page !== here() || post.step !== step);
    keep([...posts, { page: here(), to: form.getAttribute("action"), step, found: value("found"), seen: value("seen"), at: moment(new Date()), wrong: "" }]);
  });

  // Sent one after the other; what somebody else noted meanwhile is shown beside, and nothing is lost.
  let sending = false;
  const send = async () => {
    if (sending || !navigator.onLine) return;
    sending = true;
    let sent = 0;
    for (const post of keptPosts().filter((one) => one.page === here() && !one.wrong)) {
      const body = new URLSearchParams({ csrfmiddlewaretoken: token(), step: post.step, found: post.found, seen: post.seen, at: post.at });
      try {
        const answer = await fetch(post.to, { method: "POST", body, headers: { "HX-Request": "true" } });
        const page = new DOMParser().parseFromString(await answer.text(), "text/html");
        const wrong = answer.ok ? [...page.querySelectorAll(".error, [role=alert]")].map((el) => el.textContent.trim()).join(" ") : `Not taken (${answer.status}).`;
        keep(keptPosts().flatMap((one) => (one.page !== post.page || one.step !== post.step ? [one] : wrong ? [{ ...one, wrong }] : [])));
        sent += 1;
      } catch { break; }
    }
    sending = false;
    if (sent) window.htmx.trigger(document.body, "job-changed");
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
      item.append(`${post.at.slice(11)} ${post.step}: ${post.found}. `, post.wrong || "Kept here until there is a network.");
      const others = () => keptPosts().filter((one) => one.page !== post.page || one.step !== post.step);
      if (post.wrong) item.append(" ", button("Send mine all the same", () => { keep([...others(), { ...post, wrong: "", seen: "" }]); send(); }));
      item.append(" ", button("Let it go", () => keep(others())));
      return item;
    }));
  };

  // A clock runs by the moment it ends at, so that a telephone that was closed is right when it is opened.
  const tick = () => {
    let over = false;
    for (const el of document.querySelectorAll("[data-until]")) {
      const left = Math.ceil((new Date(el.dataset.until) - Date.now()) / 60000);
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
