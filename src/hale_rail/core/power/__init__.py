"""First power: what limits the current, what loads each rail, what is watched, when to stop."""
