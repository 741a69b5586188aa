"""The pages of the lab that a tablet computes itself while somebody drags."""

from collections.abc import Callable, Mapping

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.lab.one_bolt import one_bolt
from tight_ledger.core.lab.pages import LabPage
from tight_ledger.core.lab.reuse import reuse
from tight_ledger.core.lab.wheel import wheel
from tight_ledger.core.lab.wrench import wrench

PAGES: Mapping[str, Callable[[Mapping[str, str]], LabPage]] = {"bolt": one_bolt, "reuse": reuse, "wheel": wheel, "wrench": wrench}


def lab_page(name: str, said: Mapping[str, str]) -> LabPage:
    """A page as its knobs stand.

    Args:
        said: what each knob says; what is left out stands where it begins.
    Raises:
        NotOnFile: no page has this name.
        Invalid: a knob is out of its range.
    """
    if name not in PAGES:
        raise NotOnFile("page", f"The lab has no page “{name}”.", f"It has {', '.join(PAGES)}.")
    return PAGES[name](said)
