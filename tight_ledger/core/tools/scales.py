"""A wrench's own scale: which line, which mark of the thimble, and the words that go with them; and back.

The body carries lines a body graduation apart; one turn of the thimble goes from one line to the next. The line that
counts is the last one that shows above the thimble's upper edge (common practice, no source).
"""

from tight_ledger.core.base import Invalid, Model
from tight_ledger.core.quantities import TorqueUnit, to_nm
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, Setting, Wrench

_SLACK = 1e-6
MOST_LINES = 200


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
    )  # fmt: skip


def _words(wrench: Wrench, figure: float, line: float, thimble: float) -> str:
    if wrench.construction not in SET_BEFOREHAND:
        return f"Pull until the {'pointer' if wrench.construction == 'beam' else 'needle'} shows {figure:g}, looking straight at it."
    if wrench.construction.startswith("electronic"):
        return f"Key in {figure:g}, and look that the unit shown is {wrench.unit}."
    if wrench.body_graduation is None or thimble < _SLACK:
        return f"{line:g} line{', thimble on 0' if wrench.body_graduation is not None else ''}. Lock it."
    return f"{line:g} line, then thimble on to {thimble:g}. Lock it."


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
