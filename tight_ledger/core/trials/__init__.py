"""A joint tightened many times: how far methods scatter, and how the bolts of a joint act on one another. Uses NumPy."""
