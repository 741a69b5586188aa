"""A wrench's own scale: which line, which mark of the thimble, and the words that go with them; and back.

The body carries lines a body graduation apart; one turn of the thimble goes from one line to the next. The line that
counts is the last one that shows above the thimble's edge; on some makes the edge meets the lower rim of the line, on
others the numbers stand left and right of the centre line in turn, and some show the figure in a window (common
practice, no source).
"""

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.base.units import TorqueUnit, from_nm, to_nm
from tight_ledger.core.tools.wrenches import SET_BEFOREHAND, Setting, Wrench

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
    """The figures of the body's lines; of a beam or a dial, of its numbered marks; none where they are not on file."""
    marks: tuple[float, ...]
    """The figures on the thimble; empty without one."""
    line: float | None
    """None where how the scale is drawn is not on file."""
    thimble: float | None
    share: float
    """How far along the scale from the lowest mark to the highest, 0 to 1."""
    words: str
    other_unit: str = ""
    other: tuple[OtherLine, ...] = ()
    """The other side's lines, on a wrench with two."""
    steps: tuple[str, ...] = ()
    """How to get there, one act after the other."""


def scale(wrench: Wrench, figure: float) -> Scale:
    """The scale set to a figure that is one of its marks. Where how it is drawn is not on file, it has no lines.

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
    lines, marks = _lines(wrench), _marks(wrench)
    line = max((each for each in lines if each <= figure + _SLACK), default=None)
    thimble = nine_digits(figure - line) if line is not None and marks else None
    if thimble is not None and not any(abs(thimble - mark) < _SLACK for mark in marks):
        line = thimble = None  # lines and thimble do not go together: nothing is said of a mark that is not there
    return Scale(
        unit=wrench.unit, figure=figure, lowest=wrench.lowest, highest=wrench.highest, lines=lines, marks=marks, line=line, thimble=thimble,
        share=(figure - wrench.lowest) / (wrench.highest - wrench.lowest), words=_words(wrench, figure, line, thimble),
        steps=_steps(wrench, figure), other=_other(wrench), other_unit=wrench.second.unit if wrench.second is not None else "",
    )  # fmt: skip


def _lines(wrench: Wrench) -> tuple[float, ...]:
    """The figures of the body's lines, or of a dial's numbers; none where the step between them is not on file."""
    step = wrench.body_graduation
    if step is None:
        return ()
    count = int((wrench.highest - wrench.lowest) / step + _SLACK) + 1
    if count > MOST_LINES:
        raise Invalid("body_graduation", f"A scale of {count} lines is none.", "Give the step between two lines on the body.")
    return tuple(nine_digits(wrench.lowest + n * step) for n in range(count))


def _marks(wrench: Wrench) -> tuple[float, ...]:
    """The figures on the thimble; none without a thimble, or where it is not on file."""
    if wrench.body_graduation is None or wrench.construction not in SET_BEFOREHAND or wrench.construction.startswith("electronic"):
        return ()
    many = round(wrench.body_graduation / wrench.graduation)
    return tuple(nine_digits(n * wrench.graduation) for n in range(many)) if many > 1 else ()


def _other(wrench: Wrench) -> tuple[OtherLine, ...]:
    """Lines of the wrench's other scale, each at the place of the same torque on this scale."""
    if wrench.second is None:
        return ()
    other = wrench.read_in(wrench.second.unit)
    found = []
    for figure in _lines(other):
        here = from_nm(to_nm(figure, other.unit), wrench.unit)
        found.append(OtherLine(figure=figure, share=(here - wrench.lowest) / (wrench.highest - wrench.lowest)))
    return tuple(reading for reading in found if -_SLACK <= reading.share <= 1 + _SLACK)


def _words(wrench: Wrench, figure: float, line: float | None, thimble: float | None) -> str:
    if wrench.construction not in SET_BEFOREHAND:
        return f"Pull until the {'pointer' if wrench.construction == 'beam' else 'needle'} shows {figure:g}, looking straight at it."
    if wrench.construction.startswith("electronic"):
        return f"Key in {figure:g}, and look that the unit shown is {wrench.unit}."
    if wrench.face == "window":
        return f"Turn until the window shows {figure:g}. Lock it."
    if line is None:
        return f"Set it to {figure:g} {wrench.unit} by its own marks. Lock it."
    place = f"{line:g} line"
    if wrench.face == "lower edge":
        place = f"{line:g} line, the edge on its lower rim"
    elif wrench.face == "staggered":
        place = f"{line:g} line, its number {stands_on(wrench, line)}"
    if thimble is None:
        return f"{place}. Lock it."
    return f"{place}, thimble on 0. Lock it." if thimble < _SLACK else f"{place}, then thimble on to {thimble:g}. Lock it."


def stands_on(wrench: Wrench, line: float) -> str:
    """On which side of the centre line a staggered scale has a line's number: left and right in turn, the lowest left."""
    lines = _lines(wrench)
    return "on the right" if line in lines and lines.index(line) % 2 else "on the left"


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
        Invalid: how the scale is drawn is not on file, no such line, or no such mark.
    """
    lines = _lines(wrench)
    if not lines:
        raise Invalid("body_graduation", f"How the scale of {wrench.name} is drawn is not on file.", "Give the step between two lines.")
    if not any(abs(line - each) < _SLACK for each in lines):
        raise Invalid(
            "line", f"There is no line {line:g} on this scale.",
            f"The lines are {wrench.body_graduation:g} apart, from {lines[0]:g} to {lines[-1]:g}.",
        )  # fmt: skip
    marks = _marks(wrench) or (0.0,)
    if not any(abs(thimble - mark) < _SLACK for mark in marks):
        raise Invalid("thimble", f"There is no mark {thimble:g} on the thimble.", f"It goes from 0 to {marks[-1]:g}.")
    figure = line + thimble
    if figure > wrench.highest + _SLACK:
        raise Invalid("thimble", f"{figure:g} {wrench.unit} lies beyond the highest mark, {wrench.highest:g}.", "Turn it back.")
    return Setting(figure=figure, unit=wrench.unit, torque_nm=to_nm(figure, wrench.unit))


USUAL_TURNS = (1, 5, 10, 20, 25, 50)
"""Usual numbers of thimble steps between two lines on the body; 1: every mark is a line. Common practice, no source."""


class Pair(Model):
    """How a body and its thimble can be marked."""

    body_graduation: float
    words: str
    """`a line every 10, thimble 0 to 9`."""


class ScaleProof(Model):
    """How a wrench that is being added is drawn as it is described, and the figure at which that is proved."""

    pairs: tuple[Pair, ...]
    """What body and thimble usually show at this step between two marks; none where there are no lines to set by."""
    scale: Scale
    """At its highest mark, so that every line shows."""
    needed: bool
    figure: float
    """What it is set to when it is read back."""
    second: "ScaleProof | None" = None
    """Of its other side."""


SIDES_DIFFER = 0.12
"""How far the ends of two scales of one wrench may lie apart, as a share. Common practice, no source: both are rounded."""


def require_one_scale(wrench: Wrench) -> None:
    """Refuse lines and thimble that do not go together, and two sides that are not the same wrench's.

    Raises:
        Invalid: a turn of the thimble is no whole number of its marks, or the two scales end at different torques.
    """
    for side in wrench.sides():
        turns = side.body_graduation / side.graduation if side.body_graduation is not None and side.has_spring else 1.0
        if abs(turns - round(turns)) > 1e-4:
            raise Invalid(
                "body_graduation", f"Lines every {side.body_graduation:g} and marks every {side.graduation:g} do not go together.",
                "One turn of the thimble is a whole number of its marks. Look at both once more.",
            )  # fmt: skip
        for end in ("lowest", "highest"):
            main_nm, other_nm = (to_nm(getattr(scaled, end), scaled.unit) for scaled in (wrench, side))
            if abs(other_nm - main_nm) > SIDES_DIFFER * main_nm:
                raise Invalid(
                    f"second.{end}",
                    f"{getattr(side, end):g} {side.unit} is {from_nm(other_nm, wrench.unit):.3g} {wrench.unit}, "
                    f"not {getattr(wrench, end):g}.",
                    "Both scales of a wrench show the same torque. Look at the plate once more.",
                )


def proof(wrench: Wrench) -> ScaleProof:
    """What is asked of a wrench that is being added.

    Raises:
        Invalid: a scale that cannot be.
    """
    require_one_scale(wrench)
    main, *others = (_proof_of(side) for side in wrench.sides())
    return main.model_copy(update={"second": others[0]}) if others else main


def _proof_of(wrench: Wrench) -> ScaleProof:
    """Of the side that a wrench is read by."""
    by_lines = wrench.has_spring and wrench.face != "window"
    steps = int((wrench.highest - wrench.lowest) / wrench.graduation + _SLACK)
    highest = nine_digits(wrench.lowest + steps * wrench.graduation)
    needed = is_read_back(wrench)
    return ScaleProof(
        pairs=tuple(_pair(wrench.graduation, many) for many in USUAL_TURNS if many <= steps) if by_lines else (),
        scale=scale(wrench, highest), needed=needed, figure=read_back_figure(wrench) if needed else highest,
    )  # fmt: skip


def _pair(graduation: float, many: int) -> Pair:
    step = nine_digits(many * graduation)
    thimble = f"thimble 0 to {nine_digits((many - 1) * graduation):g}" if many > 1 else "no thimble"
    return Pair(body_graduation=step, words=f"a line every {step:g}, {thimble}")


class Seen(Model):
    """What somebody sees on a wrench: the last line above the thimble's edge, and the thimble's mark."""

    line: float
    thimble: float = 0


def is_read_back(wrench: Wrench) -> bool:
    """Whether a wrench's scale is proved by reading it back: one that is set by lines that are on file."""
    return wrench.has_spring and wrench.face != "window" and wrench.body_graduation is not None


def read_back_figure(wrench: Wrench) -> float:
    """The figure at which a wrong step between the lines shows: the last mark of the thimble, above a line in the middle.

    Raises:
        Invalid: how the scale is drawn is not on file.
    """
    lines, marks = _lines(wrench), _marks(wrench) or (0.0,)
    if not lines:
        raise Invalid("body_graduation", "The step between two lines on the body is missing.", "Look at the body, and tap it.")
    return min(nine_digits(lines[(len(lines) - 1) // 2] + marks[-1]), wrench.highest)


def require_read_back(wrench: Wrench, seen: Seen | None, second: Seen | None = None) -> None:
    """Refuse a wrench whose scales were not read back, or read otherwise than they are described.

    Args:
        seen: what shows on it, set to `read_back_figure`.
        second: the same of its other side.
    Raises:
        Invalid: a side was not read back, or what is seen is not what its scale would show.
    """
    require_one_scale(wrench)
    for side, field, shown in zip(wrench.sides(), ("seen", "seen_second"), (seen, second), strict=False):
        if is_read_back(side):
            _require_read_back(side, field, shown)


def _require_read_back(wrench: Wrench, field: str, seen: Seen | None) -> None:
    figure = read_back_figure(wrench)
    if seen is None:
        raise Invalid(field, f"Nobody has read {wrench.name} back.", f"Set it to {figure:g} {wrench.unit}, and type line and thimble.")
    shown = read(wrench, seen.line, seen.thimble)
    if abs(shown.figure - figure) > _SLACK:
        raise Invalid(
            field, f"That reads {shown.figure:g}, not {figure:g} {wrench.unit}.", "Look once more what the body and the thimble show."
        )
