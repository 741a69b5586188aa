"""The made-up workshop: the ground fleet of a ferry port, Saltmarsh Quay. Everybody and everything is invented."""
