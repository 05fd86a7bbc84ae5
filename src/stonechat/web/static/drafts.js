// What is typed and not yet kept survives a reload and a crash of the tab: it is shown again, and said to be a draft.
(() => {
  const KEY = "stonechat-draft:";
  const fields = "input:not([type=hidden]):not([type=file]):not([type=password]), select, textarea";
  const path = (form) => new URL(form.action, window.location.href).pathname;
  const keeps = (form) => form.method.toLowerCase() === "post" && form.querySelector(fields) && !form.closest("dialog");

  const usual = (field) => {
    if (field.type === "checkbox" || field.type === "radio") return field.defaultChecked ? "on" : "";
    if (field.tagName !== "SELECT") return field.defaultValue;
    const chosen = [...field.options].find((option) => option.defaultSelected) || field.options[0];
    return chosen ? chosen.value : "";
  };
  const now = (field) => (field.type === "checkbox" || field.type === "radio" ? (field.checked ? "on" : "") : field.value);
  // several ticks of one name differ by what they stand for
  const name = (field) => (field.type === "checkbox" || field.type === "radio" ? `${field.name}=${field.value}` : field.name);

  const keep = (form) => {
    const typed = {};
    for (const field of form.querySelectorAll(fields)) {
      if (field.name && now(field) !== usual(field)) typed[name(field)] = [usual(field), now(field)];
    }
    if (Object.keys(typed).length) sessionStorage.setItem(KEY + path(form), JSON.stringify(typed));
    else forget(form);
  };
  const forget = (form) => sessionStorage.removeItem(KEY + path(form));

  const said = (form) => {
    if (form.querySelector(".draft")) return;
    const box = document.createElement("p");
    box.className = "draft help";
    box.setAttribute("role", "status");
    box.textContent = "As you typed it before; not kept yet. ";
    const back = document.createElement("button");
    back.type = "button";
    back.className = "btn btn-sm btn-link";
    back.textContent = "Show what is kept";
    back.addEventListener("click", () => {
      form.reset();
      forget(form);
      box.remove();
    });
    box.append(back);
    form.append(box);
  };

  const restore = () => {
    for (const form of document.querySelectorAll("form")) {
      if (!keeps(form)) continue;
      const kept = sessionStorage.getItem(KEY + path(form));
      // what the server answers to a wrong entry shows it again itself
      if (!kept || form.querySelector("[aria-invalid]")) continue;
      let used = false;
      const typed = JSON.parse(kept);
      for (const field of form.querySelectorAll(fields)) {
        const entry = typed[name(field)];
        // where the kept value has changed meanwhile, the draft speaks of something else
        if (!entry || entry[0] !== usual(field) || entry[1] === usual(field)) continue;
        if (field.type === "checkbox" || field.type === "radio") field.checked = entry[1] === "on";
        else field.value = entry[1];
        used = true;
      }
      if (used) said(form);
      else forget(form);
    }
  };

  document.addEventListener("input", (event) => {
    const form = event.target.form;
    if (form && keeps(form)) keep(form);
  });
  document.addEventListener("submit", (event) => {
    if (!event.target.hasAttribute("hx-post")) forget(event.target);
  });
  // before its answer is swapped in, for what is shown then looks for drafts
  document.addEventListener("htmx:beforeOnLoad", (event) => {
    const form = event.detail.elt && event.detail.elt.closest && event.detail.elt.closest("form");
    if (form && event.detail.xhr.status < 400) forget(form);
  });
  document.addEventListener("DOMContentLoaded", restore);
  document.addEventListener("htmx:afterSettle", restore);
})();
