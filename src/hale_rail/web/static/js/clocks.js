// Clocks count down by the server's numbers: an end moment, or volts, farads and a time constant.
import { findAll } from "./find.js";

const now = () => Date.now() / 1000;

function showLeft(clock) {
  const left = Math.max(0, Number(clock.dataset.until) - now());
  const minutes = Math.floor(left / 60);
  const seconds = left < 60 ? left.toFixed(left < 10 ? 1 : 0) : String(Math.floor(left % 60));
  if (left === 0) {
    clock.textContent = "now, so read it";
  } else {
    clock.textContent = minutes ? `${minutes} min ${seconds} s` : `${seconds} s`;
  }
}

// What a store holds now, by its own measured decay: volts and joules together.
function showHeld(store) {
  const { volts, at, tau, farad } = store.dataset;
  const held = Number(volts) * Math.exp(-(now() - Number(at)) / Number(tau));
  const joules = 0.5 * Number(farad) * held * held;
  const shown = store.querySelector("[data-held]");
  shown.textContent = `≈ ${held >= 100 ? held.toFixed(0) : held.toFixed(1)} V`;
  shown.title = `read at ${volts} V; falling by its own discharge`;
  const energy = store.querySelector("[data-joules]");
  energy.dataset.read = energy.dataset.read || energy.textContent;
  const figure = joules < 0.0005 ? "less than 0.001" : String(Number(joules.toPrecision(2)));
  energy.textContent = `≈ ${figure} J now, ${energy.dataset.read}`;
}

export function tick() {
  findAll("[data-until]").forEach(showLeft);
  findAll("[data-tau]").forEach(showHeld);
}

export function startCountdown(button) {
  const clock = button.closest(".bleed").querySelector("[data-countdown]");
  clock.dataset.until = now() + Number(clock.dataset.countdown);
  tick();
}
