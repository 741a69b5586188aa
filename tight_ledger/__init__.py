"""Tight Ledger: find, prepare, tighten, record."""

__version__ = "0.1.0"
