(() => {
  "use strict";
  // Speaks with the one page that frames us, over a private port: node numbers, hover and scroll, nothing else.
  let port = null, quiet = false, over = null;
  const stop = (e) => { e.preventDefault(); e.stopImmediatePropagation(); };
  const number = (t) => {
    const el = t instanceof Element ? t.closest("[data-gf]") : null;
    return el ? Number(el.getAttribute("data-gf")) : -1;
  };
  const numbered = (n) => document.querySelector('[data-gf="' + Number(n) + '"]');
  // a text has a number and no element: the label before it, or what it stands in, is shown; of what the head says, nothing
  const find = (n) => {
    let el = numbered(n);
    for (let k = Number(n) - 1; !el && k > n - 8; k--) el = numbered(k);
    return el && (el === numbered(n) || (el !== document.body && document.body.contains(el))) ? el : null;
  };
  for (const name of ["mousedown", "mouseup", "pointerdown", "pointerup", "dblclick", "auxclick", "submit", "dragstart",
    "contextmenu", "touchstart", "keydown", "keypress", "beforeinput"])
    addEventListener(name, (e) => { if (name !== "keydown" || !/^(Arrow|Page|Home|End)/.test(e.key)) stop(e); }, { capture: true, passive: false });
  addEventListener("click", (e) => { stop(e); const n = number(e.target); if (n >= 0 && port) port.postMessage({ what: "pick", n }); }, true);
  addEventListener("mouseover", (e) => {
    if (over) over.removeAttribute("data-gf-over");
    over = e.target instanceof Element ? e.target.closest("[data-gf]") : null;
    if (over) over.setAttribute("data-gf-over", "");
    if (port) port.postMessage({ what: "over", n: number(e.target) });
  }, true);
  addEventListener("scroll", () => {
    if (quiet) { quiet = false; return; }
    const d = document.scrollingElement || document.documentElement, most = d.scrollHeight - d.clientHeight;
    if (port && most > 0) port.postMessage({ what: "scroll", at: d.scrollTop / most });
  }, { passive: true });
  const heed = (m) => {
    const d = document.scrollingElement || document.documentElement;
    if (m.what === "scroll") { quiet = true; d.scrollTop = Number(m.at) * (d.scrollHeight - d.clientHeight); }
    else if (m.what === "marks") {
      for (const el of document.querySelectorAll("[data-gf-as]")) { el.removeAttribute("data-gf-as"); el.removeAttribute("data-gf-said"); }
      for (const [n, as, said] of m.marks.slice(0, 2000)) {
        const el = find(n);
        if (el) { el.setAttribute("data-gf-as", String(as)); if (said) el.setAttribute("data-gf-said", String(said)); }
      }
    } else if (m.what === "show") { const el = find(m.n); if (el) el.scrollIntoView({ block: "center" }); }
  };
  addEventListener("message", (e) => {
    if (port || e.source !== parent || !e.ports[0] || !e.data || e.data.what !== "port") return;
    port = e.ports[0]; port.onmessage = (m) => heed(m.data); port.postMessage({ what: "ready" });
  });
})();
