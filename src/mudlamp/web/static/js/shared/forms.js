// Rig and Tune: what their forms need besides htmx: place and time, a stop for long work, the printer.

const NOTICE = document.getElementById("notice");

function put(name, value) {
  const field = document.querySelector(`#_ask [name="${name}"]`);
  if (field) field.value = value;
}

function hereNow(button) {
  put("at", new Date().toISOString().slice(0, 16));
  if (!navigator.geolocation) {
    button.textContent = "Time is set; this device does not share its location";
    return;
  }
  navigator.geolocation.getCurrentPosition(
    ({ coords }) => {
      // Hundredths of a degree are enough for the sun, and give no spot away.
      put("latitude_deg", coords.latitude.toFixed(2));
      put("longitude_deg", coords.longitude.toFixed(2));
      button.textContent = "Location and time are set";
    },
    () => (button.textContent = "Time is set; no location was given"),
  );
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  if (button.id === "here-now") hereNow(button);
  if (button.id === "print-now") window.print();
  if (button.dataset.cancelJob) {
    button.disabled = true;
    fetch(`/api/v1/jobs/${button.dataset.cancelJob}`, { method: "DELETE" });
  }
});
// An old refusal goes away once something else is tried.
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.requestConfig.verb !== "get" || event.detail.elt.id === "symptom") NOTICE.replaceChildren();
});
