// Sets the theme before the page is drawn: the person's choice, else the system's.
(function () {
  const chosen = localStorage.getItem("hale-rail-theme");
  const dark = matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.bsTheme = chosen || (dark ? "dark" : "light");
})();
