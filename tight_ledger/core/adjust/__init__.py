"""Measured adjustments: whether a reading is believed, and what to do next and by how much."""
