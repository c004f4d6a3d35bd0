// What another bench adds to the case arrives without a reload; what is being typed here stays as it is.
import { find } from "./find.js";

const EVERY_MS = 2000;
const PARTS = [".case-head", ".stages", ".middle", ".panel", ".tray"];
// these views hold what was drawn or set by hand, which a new part would throw away
const BY_HAND = ".view-map, .view-ripple";
let failures = 0;
let isAsking = false;

function isChanged(field) {
  if (field.type === "checkbox" || field.type === "radio") {
    return field.checked !== field.defaultChecked;
  }
  if (field.tagName === "SELECT") {
    const chosen = [...field.options].filter((option) => option.defaultSelected);
    return chosen.length > 0 && !chosen.includes(field.selectedOptions[0]);
  }
  return field.type === "file" ? field.files.length > 0 : field.value !== field.defaultValue;
}

// A part in which somebody is at work: something is typed, or a form of it is open.
function isBusy(part) {
  const fields = [...part.querySelectorAll("input:not([type=hidden]), textarea, select")];
  const held = document.activeElement;
  const isWriting = part.contains(held) && held.matches("textarea, select, input:not([data-tray-input])");
  return isWriting || fields.some(isChanged) || Boolean(part.querySelector(".waiting, .htmx-request"));
}

function keepPlace(part, fresh) {
  const open = [...part.querySelectorAll("details")].map((each) => each.open);
  const all = [...fresh.querySelectorAll("details")];
  if (all.length === open.length) {
    all.forEach((each, index) => {
      each.open = open[index];
    });
  }
  const { scrollTop } = part;
  const focused = part.contains(document.activeElement) ? document.activeElement.id : "";
  part.replaceWith(fresh);
  fresh.scrollTop = scrollTop;
  window.htmx.process(fresh);
  const next = focused && document.getElementById(focused);
  if (next) {
    next.focus({ preventScroll: true });
  }
}

function tell(told) {
  const line = find(".arrived");
  const words = told.entries.map((entry) => (entry.bench ? `${entry.bench}: ${entry.text}` : entry.text));
  const more = told.count - told.entries.length;
  line.textContent = `${more > 0 ? `${more} more, then ` : ""}${words.join(" · ")}`;
  line.hidden = false;
}

// The page that was there when it was asked is still there, and nothing of it is on its way.
const stands = (here) => find("#case") === here && !find(".htmx-request");

// Lay the parts anew that nobody is at work in; the rest is as it was when the hand began.
async function layAnew(here, told, lay) {
  const answer = await fetch(location.href, { headers: { "HX-Request": "true" }, cache: "no-store" });
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const fresh = page.querySelector("#case");
  if (!answer.ok || answer.redirected || !fresh || !stands(here)) {
    return;
  }
  const parts = here.matches(BY_HAND) ? [] : PARTS;
  parts.forEach((name) => {
    const [part, other] = [here.querySelector(name), fresh.querySelector(name)];
    if (part && other && !isBusy(part)) {
      keepPlace(part, document.adoptNode(other));
    }
  });
  here.dataset.newest = told.newest;
  tell(told);
  lay();
}

export function showAway(isAway) {
  find("#away").hidden = !isAway;
}

async function ask(lay) {
  const here = find("#case[data-news]");
  // while parts are placed or a photo is drawn on, a page laid anew would lose what is in hand
  const isAtWork = find(".modal.show, [data-at-work]");
  if (!here || !stands(here) || document.hidden || isAsking || isAtWork) {
    return;
  }
  isAsking = true;
  try {
    const answer = await fetch(`${here.dataset.news}?after=${here.dataset.newest}`, { cache: "no-store" });
    failures = 0;
    showAway(false);
    const told = answer.status === 200 && (await answer.json());
    if (told && stands(here)) {
      await layAnew(here, told, lay);
    }
  } catch {
    failures += 1;
    showAway(failures > 1);
  } finally {
    isAsking = false;
  }
}

export function listenToOthers(lay) {
  setInterval(() => ask(lay), EVERY_MS);
  document.addEventListener("htmx:sendError", () => showAway(true));
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful) {
      showAway(false);
    }
  });
}
