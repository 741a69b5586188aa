"""Runs: preparing, starting, recording, ending, and what is shown of a run."""
