// Sets the theme before the first paint.
document.documentElement.dataset.theme = localStorage.getItem("theme") ?? (matchMedia("(prefers-color-scheme: dark)").matches ? "lamp" : "paper");
