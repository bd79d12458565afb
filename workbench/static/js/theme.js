// Day or night bay, before the page is drawn.
(() => {
  const kept = (() => { try { return localStorage.getItem("metrolex-theme"); } catch { return null; } })();
  if (kept === "night") document.documentElement.dataset.bsTheme = "dark";
})();
