"""Measurements, side by side in one run. Not tests."""
