"""How a reading is taken: what is done before each, and how often. A reading that was not taken so is refused."""

from collections.abc import Mapping
from typing import Literal

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.tools.gauges import GaugeKind

MethodName = Literal[
    "end play", "thrust", "rotating drag", "spring scale drag", "backlash", "stretch", "length", "thickness", "runout", "gap", "free height"
]
HowToTake = Literal["each", "mean", "max", "spread", "agreed", "together", "places"]


class Method(Model):
    """How a reading is taken. Common practice, no source, where a line names none."""

    name: MethodName
    before: str
    """What is done before a reading counts, as one does it."""
    done: str
    """The same, as somebody confirms that it was done."""
    every_time: bool = False
    """Whether it is done before each reading, not only before the first."""
    picture: Literal["dial", "scale", "none"] = "none"
    """What stands in front of the mechanic."""
    kinds: tuple[GaugeKind, ...]
    """With which kinds of gauge it can be read."""


_INDICATORS: tuple[GaugeKind, ...] = ("dial indicator", "digital indicator")
_DRAG: tuple[GaugeKind, ...] = ("beam drag wrench", "dial drag wrench", "rotating-drag gauge")

METHODS: Mapping[MethodName, Method] = {
    each.name: each
    for each in (
        Method(
            name="end play", kinds=_INDICATORS, every_time=True, picture="dial", done="pushed in, turned, at zero; then pulled out",
            before="Push the hub in, turning it to and fro, and zero the dial. Then pull it out, turning again, and read.",
        ),
        Method(
            name="thrust", kinds=_INDICATORS, every_time=True, picture="dial", done="pried to one end, at zero; then to the other",
            before="Pry the shaft to one end and zero the dial. Then pry it to the other end, let go, and read.",
        ),
        Method(
            name="rotating drag", kinds=_DRAG, every_time=True, picture="scale", done="turned several times; read while it turned",
            before="Turn it several times first. Read while it turns steadily, never the jerk with which it starts.",
        ),
        Method(
            name="spring scale drag", kinds=("spring scale",), every_time=True, picture="scale",
            done="string square to the lever; read while it turned",
            before="Wind the string round the hub and pull square. Turn it several times, then read while it turns.",
        ),
        Method(
            name="backlash", kinds=_INDICATORS, every_time=True, picture="dial", done="gear held, tip square to the tooth, at this place",
            before="Hold the pinion, set the tip square to a tooth, rock the ring gear, and read. Then turn it to the next place.",
        ),
        Method(
            name="stretch", kinds=("stretch gauge", "micrometer"), picture="dial", done="gauge in its dimples, rocked to the least reading",
            before="Set the gauge into the dimples of the bolt, rock it, and take the least reading.",
        ),
        Method(
            name="length", kinds=("stretch gauge", "micrometer"), picture="dial", done="the bolt is loose; gauge in its dimples",
            before="The bolt is loose. Set the gauge into its dimples, rock it, and take the least reading.",
        ),
        Method(
            name="thickness", kinds=("micrometer", "caliper"), done="wiped clean, measured as a pack",
            before="Wipe it clean; measure the whole pack at three places.",
        ),
        Method(
            name="runout", kinds=_INDICATORS, picture="dial", done="turned once round; largest less smallest",
            before="Turn it once round, slowly. The runout is the largest reading less the smallest.",
        ),
        Method(
            name="gap", kinds=("feeler gauges",), done="the leaf drags lightly",
            before="The right leaf drags lightly; the next one does not go in.",
        ),
        Method(
            name="free height", kinds=("caliper",), done="unloaded, on a flat face",
            before="Stand it unloaded on a flat face and measure its height.",
        ),
    )
}  # fmt: skip


def require_method(wanted: MethodName | None, said: str | None, *, first: bool) -> None:
    """Refuse a reading that was not taken as its step says.

    Args:
        wanted: the step's method.
        said: the method by which somebody says that it was taken.
        first: whether it is the first reading of its pull.

    Raises:
        Invalid: nobody says that it was taken so, or it was taken otherwise.
    """
    if wanted is None or said == wanted or (said is None and not first and not METHODS[wanted].every_time):
        return
    raise Invalid("method", f"Nobody says that it was taken so: {METHODS[wanted].done}.", METHODS[wanted].before)
