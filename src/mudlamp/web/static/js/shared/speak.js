// Says a line aloud by the device's own voice; nothing is sent anywhere. A tap begins it, as browsers ask for; Mute is remembered.

const MUTED = "lamp_muted";

// Voices that live on the device alone.
function ownVoice() {
  const voices = window.speechSynthesis?.getVoices().filter((voice) => voice.localService) ?? [];
  return voices.find((voice) => voice.lang.startsWith("en")) ?? voices[0] ?? null;
}

const muted = () => localStorage.getItem(MUTED) === "yes";

// Returns what went wrong in words, or nothing.
export function speak(text) {
  const voice = ownVoice();
  if (!voice) return "This device has no voice of its own.";
  if (muted()) return "Muted.";
  const said = new SpeechSynthesisUtterance(text);
  said.voice = voice;
  said.lang = voice.lang;
  window.speechSynthesis.cancel();
  window.speechSynthesis.speak(said);
  return "";
}

const label = (button) => (button.textContent = muted() ? "Unmute" : "Mute");

document.addEventListener("click", (event) => {
  const mute = event.target.closest("[data-mute]");
  if (mute) {
    localStorage.setItem(MUTED, muted() ? "no" : "yes");
    window.speechSynthesis?.cancel();
    label(mute);
  }
  const button = event.target.closest("[data-speak]");
  if (button) button.nextElementSibling.textContent = speak(button.dataset.speak);
});

for (const mute of document.querySelectorAll("[data-mute]")) label(mute);
