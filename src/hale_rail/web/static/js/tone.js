// A short tone a verdict, off until asked for, so that eyes can stay on the probe.
const KEY = "hale-rail-tone";
const PITCHES = {
  good: [880],
  worn: [620, 520],
  failed: [300, 220],
  unproven: [520, 620],
};
const LENGTH_S = 0.14;
let audio = null;

export const toneIsOn = () => localStorage.getItem(KEY) === "on";

export function sound(shape) {
  if (!toneIsOn() || !PITCHES[shape]) {
    return;
  }
  audio = audio || new AudioContext();
  PITCHES[shape].forEach((hertz, index) => {
    const start = audio.currentTime + index * LENGTH_S;
    const oscillator = audio.createOscillator();
    const gain = audio.createGain();
    oscillator.frequency.value = hertz;
    gain.gain.setValueAtTime(0.12, start);
    gain.gain.exponentialRampToValueAtTime(0.001, start + 0.13);
    oscillator.connect(gain).connect(audio.destination);
    oscillator.start(start);
    oscillator.stop(start + LENGTH_S);
  });
}

export function switchTone() {
  localStorage.setItem(KEY, toneIsOn() ? "off" : "on");
  sound("good");
  return toneIsOn();
}
