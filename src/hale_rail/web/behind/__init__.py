"""The machine behind the supply: its routes and its drawing."""
