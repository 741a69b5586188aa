"""Use cases: each fetches, asks the core, and appends. A module or a package for each subject."""
