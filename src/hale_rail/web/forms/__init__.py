"""What is typed into the pages, parsed and checked: one form class a form, by the action's name."""
