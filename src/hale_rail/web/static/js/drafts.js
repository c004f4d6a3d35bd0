// What was typed and not sent survives a reload, for as long as the tab is open.
import { findAll } from "./find.js";

const FIELDS = "form[method=post] :is(textarea, input:not([type]), input[type=text])";

function keyOf(field) {
  const at = field.form.querySelector("input[name=at]");
  return ["draft", location.pathname, field.form.getAttribute("action"), at ? at.value : "", field.name].join(" ");
}

export function restore() {
  findAll(FIELDS).forEach((field) => {
    const kept = sessionStorage.getItem(keyOf(field));
    if (kept !== null && field.value === field.defaultValue) {
      field.value = kept;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
  });
}

export function keepDrafts() {
  document.addEventListener("input", (event) => {
    const field = event.target;
    if (field.form && field.matches(FIELDS)) {
      sessionStorage.setItem(keyOf(field), field.value);
    }
  });
  document.addEventListener("submit", (event) => {
    [...event.target.elements].forEach((field) => sessionStorage.removeItem(keyOf(field)));
  });
}
