"""One machine that runs this: its data directory, its databases, its certificate authority, how it serves."""
