"""Cases of other benches, settled by physics on paper before they were run."""
