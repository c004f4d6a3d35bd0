"""The end of the work: the harness, the board behind the supply, heat, soak and lifetimes."""
