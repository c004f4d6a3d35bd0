// Rows of an editable table: one more, or one cleared.
const cells = (row) => [...row.querySelectorAll("input")];

export function addRow(button) {
  const rows = button.closest("form").querySelector("[data-rows]");
  const row = rows.lastElementChild.cloneNode(true);
  const number = rows.children.length + 1;
  [...cells(row), row.querySelector("button")].forEach((element) => {
    const label = element.getAttribute("aria-label");
    element.setAttribute("aria-label", label.replace(/\d+$/, number));
  });
  cells(row).forEach((cell) => {
    cell.value = "";
  });
  rows.append(row);
  cells(row)[0].focus();
}

export function clearRow(button) {
  const row = button.closest("tr");
  cells(row).forEach((cell) => {
    cell.value = "";
  });
  cells(row)[0].focus();
}
