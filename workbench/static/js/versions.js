// What a form says it has seen of the job: the version it was made from, the versions this page stored since ('5+6+8'), and the last one
// whose clash was told ('5.7'). See workbench/jobs/seen.py.
window.versions = (() => {
  const grown = (words, version) => {
    const [held, told] = words.split(".");
    let [base, ...own] = held.split("+").map(Number);
    if (!held || version <= base || own.includes(version)) return words;
    own.push(version);
    while (own.includes(base + 1)) { base += 1; own = own.filter((one) => one !== base); }
    return [[base, ...own].join("+"), told].filter((one) => one !== undefined).join(".");
  };
  const toldOf = (words, version) => `${words.split(".")[0]}.${version}`;

  document.addEventListener("htmx:beforeOnLoad", (event) => {
    const [saved, told] = ["Job-Version", "Job-Told"].map((name) => Number(event.detail.xhr.getResponseHeader(name)));
    const own = event.target.querySelector && event.target.querySelector("input[name=seen]");
    if (told && own) own.value = toldOf(own.value, told);
    // A note is held against what its own form had seen, whatever was pressed beside it.
    if (saved) for (const field of document.querySelectorAll("form:not([data-typed-at]) > input[name=seen]")) field.value = grown(field.value, saved);
  });

  return { grown, toldOf };
})();
