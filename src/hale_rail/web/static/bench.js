// Keys, tone, focus and clocks. The pages work without it; it saves the hand a way to the mouse.
(function () {
  "use strict";
  const root = document.documentElement;
  const byId = (id) => document.getElementById(id);
  const find = (selector) => document.querySelector(selector);
  const trayInput = () => find("[data-tray-input]");

  // Tone: off until asked for; one pitch a verdict.
  const pitches = { good: [880], worn: [620, 520], failed: [300, 220], unproven: [520, 620] };
  let audio = null;
  const toneIsOn = () => localStorage.getItem("hale-rail-tone") === "on";
  function sound(state) {
    if (!toneIsOn() || !pitches[state]) return;
    audio = audio || new AudioContext();
    pitches[state].forEach((hertz, index) => {
      const start = audio.currentTime + index * 0.14;
      const oscillator = audio.createOscillator();
      const gain = audio.createGain();
      oscillator.frequency.value = hertz;
      gain.gain.setValueAtTime(0.12, start);
      gain.gain.exponentialRampToValueAtTime(0.001, start + 0.13);
      oscillator.connect(gain).connect(audio.destination);
      oscillator.start(start);
      oscillator.stop(start + 0.14);
    });
  }

  const actions = {
    theme() {
      const next = root.dataset.bsTheme === "dark" ? "light" : "dark";
      root.dataset.bsTheme = next;
      localStorage.setItem("hale-rail-theme", next);
    },
    keys() {
      byId("keys").showModal();
    },
    print() {
      window.print();
    },
    tone() {
      localStorage.setItem("hale-rail-tone", toneIsOn() ? "off" : "on");
      sound("good");
      announce(toneIsOn() ? "Tone on" : "Tone off");
    },
    countdown(button) {
      const clock = button.closest(".bleed").querySelector("[data-countdown]");
      clock.dataset.until = Date.now() / 1000 + Number(clock.dataset.countdown);
      tick();
    },
  };

  function announce(text) {
    const echo = byId("echo");
    if (echo) echo.textContent = text;
  }

  // Clocks count down by the server's numbers: an end moment, or volts and a time constant.
  function tick() {
    const now = Date.now() / 1000;
    document.querySelectorAll("[data-until]").forEach((clock) => {
      const left = Math.max(0, Number(clock.dataset.until) - now);
      const minutes = Math.floor(left / 60);
      const seconds = left < 60 ? left.toFixed(left < 10 ? 1 : 0) : String(Math.floor(left % 60));
      clock.textContent = left === 0 ? "now: read it" :
        minutes ? `${minutes} min ${seconds} s` : `${seconds} s`;
    });
    document.querySelectorAll("[data-tau]").forEach((clock) => {
      const { volts, at, tau } = clock.dataset;
      const held = Number(volts) * Math.exp(-(now - Number(at)) / Number(tau));
      clock.textContent = `≈ ${held >= 100 ? held.toFixed(0) : held.toFixed(1)} V`;
      clock.title = `read at ${volts} V; falling by its own discharge`;
    });
  }
  setInterval(tick, 200);

  function settle() {
    const input = trayInput();
    if (input && !find("dialog[open]") && !find("[data-keep-focus]")) {
      input.focus({ preventScroll: true });
      if (input.getAttribute("aria-invalid") === "true") input.select();
    }
    const result = find("[data-tone]");
    if (result && result.dataset.reading !== settle.last) {
      settle.last = result.dataset.reading;
      sound(result.dataset.tone);
    }
    tick();
  }
  document.addEventListener("htmx:afterSettle", (event) => {
    if (event.detail.target.id !== "echo" && event.detail.target.id !== "cases" &&
        event.detail.target.id !== "preview") settle();
  });
  document.addEventListener("DOMContentLoaded", settle);

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-do]");
    if (button) actions[button.dataset.do](button);
  });

  // The next of several links that switch one thing, round and round.
  function turn(selector) {
    const links = [...document.querySelectorAll(selector)];
    const here = links.findIndex((link) => link.getAttribute("aria-current"));
    if (links.length > 1) links[(here + 1) % links.length].click();
  }
  const press = (selector) => {
    const target = find(selector);
    if (target) target.click();
    return Boolean(target);
  };

  const plainKeys = {
    "?": () => actions.keys(),
    t: () => actions.tone(),
    d: () => actions.theme(),
    b: () => press(".home"),
    "/": () => (trayInput() || byId("q") || document.body).focus(),
  };

  document.addEventListener("keydown", (event) => {
    if (find("dialog[open]") || event.ctrlKey || event.metaKey) return;
    const field = event.target.closest("input, textarea, select");
    const inTray = Boolean(field && field.matches("[data-tray-input]"));
    if (event.altKey) {
      const used = { l: () => turn("[data-setting]"), q: () => turn("[data-quantity]"),
        z: () => press("[data-undo] button") }[event.key.toLowerCase()];
      if (used) { event.preventDefault(); used(); }
      return;
    }
    if (inTray && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      event.preventDefault();
      press(`[data-walk=${event.key === "ArrowDown" ? "next" : "previous"}]`);
    } else if (inTray && event.key === "?") {
      event.preventDefault();
      actions.keys();
    } else if (inTray && event.key === "Escape") {
      field.blur();
    } else if (!field && plainKeys[event.key]) {
      event.preventDefault();
      plainKeys[event.key]();
    } else if (!field && /^[1-9w]$/.test(event.key)) {
      press(`[data-key="${event.key}"]`);
    }
  });
})();
