// Rows of an editable table: one more, or one cleared.
const cells = (row) => [...row.querySelectorAll("input")];

export function addRow(button) {
  const rows = button.closest("form").querySelector("[data-rows]");
  const row = rows.lastElementChild.cloneNode(true);
  cells(row).forEach((cell) => {
    cell.value = "";
    cell.setAttribute("aria-label", `${cell.name}, row ${rows.children.length + 1}`);
  });
  row.querySelector("button").setAttribute("aria-label", `Clear row ${rows.children.length + 1}`);
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
