"""Devices: wrenches on the line, and who listens to a run."""
