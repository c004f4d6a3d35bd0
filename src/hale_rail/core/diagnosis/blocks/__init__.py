"""The blocks of a supply, each with its rules: what a fault in it makes the unit do."""
