// A voice that says what was read and what is next.
import { find } from "./find.js";

const VOICE = "hale-rail-voice";

export const voiceIsOn = () => localStorage.getItem(VOICE) === "on";

function speak(text) {
  const voice = window.speechSynthesis;
  if (voice && voiceIsOn() && text) {
    voice.cancel();
    voice.speak(new SpeechSynthesisUtterance(text));
  }
}

export function switchVoice() {
  localStorage.setItem(VOICE, voiceIsOn() ? "off" : "on");
  speak("Voice on");
  return voiceIsOn();
}

const words = (selector) => {
  const found = find(selector);
  return found ? found.textContent.replace(/\s+/g, " ").trim() : "";
};

// The verdict of what was just read, then the point that is next.
export function say() {
  const problem = words(".tray .echo-problem");
  const next = words(".tray .probe");
  const read = problem || words(".tray .result-verdict");
  speak([read, next && `Next: ${next}`].filter(Boolean).join(". "));
}
