"""The pages of the lab that tighten a joint many times: computed on the server."""

from collections.abc import Callable, Mapping

from tight_ledger.core.lab.pages import LabPage
from tight_ledger.core.lab.registry import lab_page
from tight_ledger.core.trials.joint import JointAsked, joint_page
from tight_ledger.core.trials.scatter import scatter_page

MANY: Mapping[str, Callable[[Mapping[str, str]], LabPage]] = {"scatter": scatter_page, "joint": joint_page}


def any_page(name: str, said: Mapping[str, str], asked: JointAsked | None = None) -> LabPage:
    """Any page of the lab as its knobs stand.

    Args:
        said: what each knob says; what is left out stands where it begins.
        asked: for the joint: a spec's own.
    Raises:
        NotOnFile: no page has this name.
        Invalid: a knob is out of its range.
    """
    if name == "joint" and asked is not None:
        return joint_page(said, asked)
    return MANY[name](said) if name in MANY else lab_page(name, said)
