"""Wrenches: what they reach, where they can be set."""
