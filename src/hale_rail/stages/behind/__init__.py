"""The machine behind the supply, on its page."""
