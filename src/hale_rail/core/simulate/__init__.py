"""Circuits integrated in time, with known truth; they know nothing of how they are judged."""
