"""Under which name an answer is saved (RFC 6266), whatever somebody has called a machine, a person or a spec."""

import re
import unicodedata
from urllib.parse import quote

MOST_LETTERS = 120


def saved_as(name: str, *, shown: bool = False) -> dict[str, str]:
    """The header of an answer that is a file.

    Letters beyond ASCII go into `filename*` (RFC 5987); a program that does not know it gets a name without them. What could end
    the header, or name a folder, is left out.

    Args:
        shown: whether a browser shows it in place rather than saving it.
    """
    visible = "".join(letter for letter in name if unicodedata.category(letter)[0] != "C")
    clean = re.sub(r'[\\/:*?"<>|;]+', "-", visible).strip(" .")[-MOST_LETTERS:] or "file"
    plain = re.sub(r"[^\w.-]+", "-", clean, flags=re.ASCII).strip("-") or "file"
    encoded = "" if plain == clean else f"; filename*=UTF-8''{quote(clean, safe='')}"
    return {"Content-Disposition": f'{"inline" if shown else "attachment"}; filename="{plain}"{encoded}'}
