"""Matching words against what is on file, and the index of what a spec is found by."""
