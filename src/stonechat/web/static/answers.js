// How answers find their place: changes of one page in quick succession are all taken, the newest answer stays, and
// focus is where it was.
(() => {
  const shown = () => Number(document.getElementById("bar") ? document.getElementById("bar").dataset.revision : 0);

  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.verb !== "get") event.detail.parameters.page = page.name;
  });

  // where focus was, in words that outlive a swap: an id, else the form or address, else the place in the list
  let before = null;
  const mark = (element) => {
    if (!element || element === document.body) return null;
    const form = element.closest("form[action]");
    return {
      id: element.id,
      name: element.getAttribute("name"),
      action: form && new URL(form.action, window.location.href).pathname,
      href: element.getAttribute("href"),
      label: element.getAttribute("aria-label") || element.textContent.trim().slice(0, 60),
      tag: element.tagName,
      order: [...document.querySelectorAll("#stage a, #stage button, #stage input, #stage select, #stage summary")].indexOf(element),
    };
  };
  const without = (address) => (address || "").split("?")[0];
  const found = (was) => {
    if (was.id && document.getElementById(was.id)) return document.getElementById(was.id);
    const same = [...document.querySelectorAll(was.tag)];
    const inForm = same.filter((e) => was.action && e.form && new URL(e.form.action, window.location.href).pathname === was.action);
    const near =
      inForm.find((e) => (was.name ? e.getAttribute("name") === was.name : true) && (!was.label || e.getAttribute("aria-label") === was.label || e.textContent.trim().slice(0, 60) === was.label)) ||
      inForm.find((e) => !was.name || e.getAttribute("name") === was.name) ||
      same.find((e) => was.href && e.getAttribute("href") === was.href) ||
      same.find((e) => was.href && without(e.getAttribute("href")) === without(was.href) && e.textContent.trim().slice(0, 60) === was.label);
    if (near) return near;
    const all = document.querySelectorAll("#stage a, #stage button, #stage input, #stage select, #stage summary");
    return was.order >= 0 ? all[Math.min(was.order, all.length - 1)] : null;
  };
  document.addEventListener("htmx:beforeRequest", () => (before = mark(document.activeElement)));
  document.addEventListener("focusin", () => (before = mark(document.activeElement)));

  // the answer to a change sent from a stage that an earlier answer has replaced finds no place: the room is asked for
  document.addEventListener("htmx:beforeRequest", (event) => {
    const { target, requestConfig, xhr } = event.detail;
    if (!target || target.id !== "stage" || requestConfig.verb === "get") return;
    let isLost = false; // asked before the answer is swapped in: afterwards the target is always gone
    xhr.addEventListener("readystatechange", () => {
      if (xhr.readyState === XMLHttpRequest.DONE) isLost = !target.isConnected;
    });
    xhr.addEventListener("loadend", () => {
      if (!isLost) return;
      window.htmx.ajax("GET", window.location.pathname + window.location.search, { target: "#stage", swap: "outerHTML show:none" });
    });
  });

  document.addEventListener("htmx:beforeSwap", (event) => {
    const answered = Number(event.detail.xhr.getResponseHeader("X-Revision") || 0);
    if (answered && answered < shown()) event.detail.shouldSwap = false;
  });

  document.addEventListener("htmx:afterSettle", () => {
    const here = document.activeElement;
    if (here && here !== document.body && here.isConnected) return;
    const again = before && found(before);
    if (again) again.focus({ preventScroll: true });
    else {
      const stage = document.getElementById("stage");
      if (stage && stage.tabIndex >= -1) stage.focus({ preventScroll: true });
    }
  });

  // Esc leaves a field
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || event.defaultPrevented) return;
    const field = event.target.closest && event.target.closest("input, select, textarea");
    if (field && !field.closest("dialog")) {
      field.blur();
      event.preventDefault();
    }
  });
})();
