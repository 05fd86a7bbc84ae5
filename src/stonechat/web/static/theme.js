// Chooses the day or night theme before the page is drawn: as switched, else as the system has it.
(() => {
  const KEY = "stonechat-theme";
  const system = window.matchMedia("(prefers-color-scheme: dark)");
  const wanted = () => localStorage.getItem(KEY) || (system.matches ? "dark" : "light");
  const apply = () => {
    document.documentElement.dataset.bsTheme = wanted();
    document.dispatchEvent(new CustomEvent("stonechat:theme"));
  };
  apply();
  system.addEventListener("change", apply);
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-theme-switch]")) return;
    localStorage.setItem(KEY, wanted() === "dark" ? "light" : "dark");
    apply();
  });
})();
