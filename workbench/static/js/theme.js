// Day or night bay, before the page is drawn.
(() => {
  const kept = (() => { try { return localStorage.getItem("metrolex-theme"); } catch { return null; } })();
  if (kept === "night") document.documentElement.dataset.bsTheme = "dark";
})();
// Where this browser is: moments are shown in its time.
try {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  if (zone && !document.cookie.split("; ").includes(`zone=${zone}`)) document.cookie = `zone=${zone}; path=/; max-age=31536000; samesite=lax`;
} catch { /* an old browser sees the workshop's time */ }
