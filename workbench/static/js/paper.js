// A paper that is printed is downloaded by itself, once.
document.addEventListener("htmx:afterSwap", () => {
  const there = document.querySelector("[data-there]:not([data-taken])");
  if (!there) return;
  there.dataset.taken = "1";
  there.click();
});
