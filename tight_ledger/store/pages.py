"""Where the built front end lies."""

from pathlib import Path

WEB = Path(__file__).parents[2] / "web" / "dist"
BUILT = ("assets", "core")
"""The folders in which each file is named by its digest."""
COMPRESSED = ".gz"
"""The ending of a compressed copy of a file; the copy lies beside the file."""
VERIFYING_PAGE = WEB / "verify" / "index.html"
"""The page that checks a card by itself."""
