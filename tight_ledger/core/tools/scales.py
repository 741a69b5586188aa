"""A wrench's own scale: which line, which mark of the thimble, and the words that go with them; and back.

The body carries lines a body graduation apart; one turn of the thimble goes from one line to the next. The line that
counts is the last one that shows above the thimble's edge; on some makes the edge meets the lower rim of the line, on
others the numbers stand left and right of the centre line in turn, and some show the figure in a window (common
practice, no source).
"""

from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, Setting, Wrench
from tight_ledger.core.units import TorqueUnit, from_nm, to_nm

_SLACK = 1e-6
MOST_LINES = 200


class OtherLine(Model):
    """A line of the wrench's other scale, and how far along this one it stands."""

    figure: float
    share: float


class Scale(Model):
    """A wrench's scale at a setting, as it is drawn and as it is said."""

    unit: TorqueUnit
    figure: float
    lowest: float
    highest: float
    lines: tuple[float, ...]
    """The figures of the body's lines; of a beam or a dial, of its numbered marks."""
    marks: tuple[float, ...]
    """The figures on the thimble; empty without one."""
    line: float
    thimble: float
    share: float
    """How far along the scale from the lowest mark to the highest, 0 to 1."""
    words: str
    other_unit: str = ""
    other: tuple[OtherLine, ...] = ()
    """The other side's lines, on a wrench with two."""
    steps: tuple[str, ...] = ()
    """How to get there, one act after the other."""


def _body_step(wrench: Wrench) -> float:
    if wrench.body_graduation is not None:
        return wrench.body_graduation
    spread = (wrench.highest - wrench.lowest) / wrench.graduation
    return wrench.graduation * max(1, round(spread / 10))


def scale(wrench: Wrench, figure: float) -> Scale:
    """The scale set to a figure that is one of its marks.

    Args:
        figure: in the unit of the scale.
    Raises:
        Invalid: the figure lies off the scale, or between two marks.
    """
    if not wrench.lowest - _SLACK <= figure <= wrench.highest + _SLACK:
        raise Invalid("figure", f"{figure:g} {wrench.unit} lies off this scale.", f"It goes from {wrench.lowest:g} to {wrench.highest:g}.")
    steps = (figure - wrench.lowest) / wrench.graduation
    if abs(steps - round(steps)) > 1e-4:
        raise Invalid("figure", f"There is no mark at {figure:g} {wrench.unit}.", f"The marks are {wrench.graduation:g} apart.")
    step = _body_step(wrench)
    count = int((wrench.highest - wrench.lowest) / step + _SLACK) + 1
    if count > MOST_LINES:
        raise Invalid("body_graduation", f"A scale of {count} lines is none.", "Give the step between two lines on the body.")
    lines = tuple(round(wrench.lowest + n * step, 9) for n in range(count))
    line = max((one for one in lines if one <= figure + _SLACK), default=lines[0])
    thimble = round(figure - line, 9)
    marks: tuple[float, ...] = ()
    if wrench.body_graduation is not None:
        marks = tuple(round(n * wrench.graduation, 9) for n in range(round(step / wrench.graduation)))
    return Scale(
        unit=wrench.unit, figure=figure, lowest=wrench.lowest, highest=wrench.highest, lines=lines, marks=marks, line=line, thimble=thimble,
        share=(figure - wrench.lowest) / (wrench.highest - wrench.lowest), words=_words(wrench, figure, line, thimble),
        steps=_steps(wrench, figure), other=_other(wrench), other_unit=wrench.second.unit if wrench.second is not None else "",
    )  # fmt: skip


def _other(wrench: Wrench) -> tuple[OtherLine, ...]:
    """Both scales tell of one spring: a line stands where this scale would say the same torque."""
    if wrench.second is None:
        return ()
    other = wrench.read_in(wrench.second.unit)
    step = _body_step(other)
    count = int((other.highest - other.lowest) / step + _SLACK) + 1
    found = []
    for figure in (round(other.lowest + n * step, 9) for n in range(count)):
        here = from_nm(to_nm(figure, other.unit), wrench.unit)
        found.append(OtherLine(figure=figure, share=(here - wrench.lowest) / (wrench.highest - wrench.lowest)))
    return tuple(one for one in found if -_SLACK <= one.share <= 1 + _SLACK)


def _words(wrench: Wrench, figure: float, line: float, thimble: float) -> str:
    if wrench.construction not in SET_BEFOREHAND:
        return f"Pull until the {'pointer' if wrench.construction == 'beam' else 'needle'} shows {figure:g}, looking straight at it."
    if wrench.construction.startswith("electronic"):
        return f"Key in {figure:g}, and look that the unit shown is {wrench.unit}."
    if wrench.face == "window":
        return f"Turn until the window shows {figure:g}. Lock it."
    place = f"{line:g} line"
    if wrench.face == "lower edge":
        place = f"{line:g} line, the edge on its lower rim"
    elif wrench.face == "staggered":
        place = f"{line:g} line, its number {stands_on(wrench, line)}"
    if wrench.body_graduation is None:
        return f"{place}. Lock it."
    return f"{place}, thimble on 0. Lock it." if thimble < _SLACK else f"{place}, then thimble on to {thimble:g}. Lock it."


def stands_on(wrench: Wrench, line: float) -> str:
    """On which side of the centre line a staggered scale has a line's number: left and right in turn, the lowest left."""
    return "on the right" if round((line - wrench.lowest) / _body_step(wrench)) % 2 else "on the left"


def _steps(wrench: Wrench, figure: float) -> tuple[str, ...]:
    if wrench.construction.startswith("electronic"):
        angle = ("Choose torque, not angle.",) if wrench.construction == "electronic with angle" else ()
        return (
            "Switch it on lying still: it takes its zero from that.", *angle, f"Press the unit key until it shows {wrench.unit}.",
            f"Key in {figure:g}.", "Confirm, and read back what it shows.",
        )  # fmt: skip
    if wrench.construction in ("dial", "beam"):
        follow = ("Put the follow-up needle against the other one.",) if wrench.construction == "dial" else ()
        return ("Look that it stands on 0 with no load.", *follow, f"Pull evenly until it shows {figure:g}, looking straight at it.")
    return ("Unlock it.", "Come up from below to the mark; past it, go back and come up again.", "Lock it, and look once more.")


def read(wrench: Wrench, line: float, thimble: float = 0) -> Setting:
    """What a wrench is set to on which a person sees a line and a mark of the thimble.

    Args:
        line: the last line above the thimble's edge, in the unit of the scale.
        thimble: the mark on the thimble that meets the body's centre line.
    Raises:
        Invalid: no such line, or no such mark.
    """
    lines = scale(wrench, wrench.lowest).lines
    step = _body_step(wrench)
    if not any(abs(line - one) < _SLACK for one in lines):
        raise Invalid(
            "line", f"There is no line {line:g} on this scale.", f"The lines are {step:g} apart, from {lines[0]:g} to {lines[-1]:g}."
        )
    marks = scale(wrench, wrench.lowest).marks or (0.0,)
    if not any(abs(thimble - one) < _SLACK for one in marks):
        raise Invalid("thimble", f"There is no mark {thimble:g} on the thimble.", f"It goes from 0 to {marks[-1]:g}.")
    figure = line + thimble
    if figure > wrench.highest + _SLACK:
        raise Invalid("thimble", f"{figure:g} {wrench.unit} lies beyond the highest mark, {wrench.highest:g}.", "Turn it back.")
    return Setting(figure=figure, unit=wrench.unit, torque_nm=to_nm(figure, wrench.unit))
