// A drawing under the hand: moves are sent one after the other, each with its own figures, and an answer redraws nothing while the hand
// is on the drawing or another move is still to be sent: the last answer shows them all.
window.hand = (() => {
  let on = false, sending = false, skipped = false, refocus = "";
  const moves = [];

  const pump = async () => {
    if (sending) return;
    sending = true;
    while (moves.length) {
      const { form, values } = moves.shift();
      const source = document.getElementById(form); // the form itself may have been drawn anew since
      try {
        if (source) await window.htmx.ajax("POST", source.getAttribute("action"), { source, values });
      } catch { /* the page has said it */ }
    }
    sending = false;
    document.dispatchEvent(new Event("hand:sent"));
  };
  const wait = (event) => {
    if (!on && !moves.length) return;
    event.detail.shouldSwap = false;
    skipped = true;
  };
  const MOVED = "#stage, #hand, #mounted, #page-stage, #plan, #build-up, #live";
  document.addEventListener("htmx:oobBeforeSwap", (event) => { if (event.detail.target.matches(MOVED)) wait(event); });
  document.addEventListener("htmx:beforeSwap", (event) => { if (event.detail.target.matches(MOVED)) wait(event); });
  document.addEventListener("htmx:afterSettle", () => {
    const again = refocus && !on && !moves.length && document.querySelector(refocus);
    if (!again) return;
    refocus = "";
    again.focus({ preventScroll: true });
  });

  const leave = (form, values, selector) => {
    on = skipped = false;
    refocus = selector;
    moves.push({ form, values });
    pump();
  };
  // What the keys moved is sent when they rest, or when they go to another thing. `held` is what they have of a thing, `move` where they bring it.
  const keys = (send, pauseMs) => {
    let timer = 0, now = null;
    const rest = () => {
      clearTimeout(timer);
      const last = now;
      now = null;
      if (last) send(last.what);
    };
    return {
      rest,
      held: (key) => {
        if (now && now.key !== key) rest();
        return now && now.what;
      },
      move: (key, what) => {
        on = true;
        now = { key, what };
        clearTimeout(timer);
        timer = setTimeout(rest, pauseMs);
      },
    };
  };

  return {
    keys,
    // Whether a move is still to be sent or answered.
    busy: () => on || sending,
    // What leaves the page waits for what was moved before it.
    then: (next) => { if (sending) document.addEventListener("hand:sent", next, { once: true }); else next(); },
    // The hand is on the drawing: nothing is redrawn under it.
    take: () => { on = true; },
    // It lets go without having moved anything.
    drop: () => {
      on = false;
      if (skipped) window.location.reload();
    },
    // It lets go: what it moved is sent by the form of that id, and the focus comes back to what `selector` finds.
    leave,
  };
})();
