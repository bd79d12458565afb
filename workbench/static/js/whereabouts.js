// A save leaves the page where it was: what was sent stays at the same height, what was folded out stays open.
(() => {
  const KEY = "metrolex-whereabouts";
  const folds = () => [...document.querySelectorAll("#work details")];
  const foldName = (fold, i) => fold.id || `${fold.querySelector("summary")?.textContent.trim().replace(/\d+/g, "")} ${i}`;
  const sameForms = (action) => [...document.querySelectorAll("form")].filter((form) => form.getAttribute("action") === action);

  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (event.defaultPrevented || form.method !== "post" || !form.closest("#work")) return;
    const action = form.getAttribute("action");
    const kept = {
      page: location.pathname,
      at: Date.now(),
      scroll: window.scrollY,
      action,
      nth: sameForms(action).indexOf(form),
      top: form.getBoundingClientRect().top,
      open: folds().map((fold, i) => [foldName(fold, i), fold.open]),
    };
    try { sessionStorage.setItem(KEY, JSON.stringify(kept)); } catch { /* private window */ }
  });

  document.addEventListener("DOMContentLoaded", () => {
    let kept = null;
    try { kept = JSON.parse(sessionStorage.getItem(KEY)); sessionStorage.removeItem(KEY); } catch { return; }
    if (!kept || kept.page !== location.pathname || location.hash || Date.now() - kept.at > 20000) return;
    const was = new Map(kept.open);
    folds().forEach((fold, i) => { if (was.get(foldName(fold, i))) fold.open = true; });
    const wrong = document.querySelector("#work .error[role=alert], #work [aria-invalid=true]");
    if (wrong) return;
    const form = sameForms(kept.action)[kept.nth];
    const shift = form && form.offsetParent ? form.getBoundingClientRect().top - kept.top : kept.scroll - window.scrollY;
    window.scrollBy({ top: shift, behavior: "instant" });
  });
})();
