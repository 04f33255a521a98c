// A small picture, tapped, is shown large.

const DIALOG = document.getElementById("enlarged");
const PICTURE = document.getElementById("enlarged-picture");

document.addEventListener("click", (event) => {
  const small = event.target.closest("[data-enlarge]");
  if (!small) return;
  PICTURE.src = small.dataset.enlarge;
  PICTURE.alt = small.getAttribute("aria-label").replace(/ Enlarge$/, "");
  DIALOG.showModal();
});
