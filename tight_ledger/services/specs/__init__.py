"""Specs: searching, entering, revisions, files of specs."""
