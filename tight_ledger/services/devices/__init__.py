"""Devices: wrenches on the line."""
