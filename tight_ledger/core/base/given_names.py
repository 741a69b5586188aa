"""Names that people give to things and to themselves: what can be read, and is what it looks like."""

import unicodedata

from tight_ledger.core.base.errors import Invalid

JOINERS = "\u200c\u200d"
"""Marks that belong to how some scripts are written."""


def require_name(field: str, name: str) -> None:
    """Refuse a name that shows nothing, or holds marks that change how the rest is shown.

    Args:
        field: what to name in the refusal.

    Raises:
        Invalid: only blanks; a line break, a tab or another control character; a mark for the direction of writing.
    """
    if not any(unicodedata.category(letter)[0] in "LNPS" for letter in name):
        raise Invalid(field, "This name shows nothing.", "Write letters or figures.")
    if hidden := next((letter for letter in name if unicodedata.category(letter)[0] == "C" and letter not in JOINERS), None):
        said = f"a mark that cannot be seen (U+{ord(hidden):04X})"
        raise Invalid(field, f"This name holds {said}.", "Type it again, without copying it.")
