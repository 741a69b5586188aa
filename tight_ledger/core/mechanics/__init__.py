"""Friction, tension and the fastener under a wrench: what happens to the part, not what is recorded about it."""
