"""Hale Rail: bench companion for restoring the power supplies of vintage computers."""

__version__ = "0.1.0"
