"""Simulated fasteners and hands, for the demo wrench and for tests. Off the run path."""
