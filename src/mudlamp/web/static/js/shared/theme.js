// Noon or Dusk: on the page at once, and remembered in a cookie, so that the next page comes in it.

export function currentTheme() {
  return document.documentElement.dataset.theme;
}

export function switchTheme() {
  const next = currentTheme() === "noon" ? "dusk" : "noon";
  document.documentElement.dataset.theme = next;
  document.cookie = `lamp_theme=${next}; path=/; max-age=31536000; samesite=strict`;
  document.getElementById("theme-switch").textContent = next === "noon" ? "Dusk" : "Noon";
  document.dispatchEvent(new CustomEvent("lamp:theme", { detail: next }));
}

document.getElementById("theme-switch").addEventListener("click", switchTheme);

// The server shows times on this browser's clock. A page with times that was made before it knew is asked for once more.
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const kept = `lamp_zone=${zone}`;
if (zone && !document.cookie.split("; ").includes(kept)) {
  document.cookie = `${kept}; path=/; max-age=31536000; samesite=strict`;
  if (document.cookie.includes(kept) && document.querySelector("[data-clock]")) location.reload();
}
