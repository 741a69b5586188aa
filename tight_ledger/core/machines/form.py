"""What a machine looks like from above, from its own data: a few bodies with counts of axles, wheels and what else stands on them."""

from typing import Literal

from pydantic import Field

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.positions import Position, Side

Body = Literal["bus", "van", "tractor", "tug", "loader", "stacker", "forklift", "trailer", "stationary"]
Part = Literal["body", "cab", "engine", "axle", "hitch", "boom", "counterweight"]
End = Literal["front", "middle", "rear"]


class Axle(Model):
    """An axle: its name as positions use it, and whether two wheels stand side by side at each end."""

    name: str = Field(min_length=1, max_length=40)
    duals: bool = False


class Form(Model):
    """What a machine looks like from above. Axles from front to rear."""

    body: Body
    axles: tuple[Axle, ...] = Field(default=(), max_length=9)
    engine: End | None = None
    cylinders: int = Field(default=0, ge=0, le=24)
    hitch: End | None = None
    boom: bool = False


class Shape(Model):
    """A part as a rectangle; x to the machine's right, y to its rear, from the middle of its front [mm]."""

    what: Part
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


class Spot(Model):
    """A place on the machine that joints belong to, with its middle and its size [mm]."""

    key: str
    """The key of a position, or the name of a part."""
    wheel: bool
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


class Drawing(Model):
    """A machine seen from above, its front at the top."""

    width_mm: float
    height_mm: float
    top_mm: float
    """The y of what stands out farthest to the front: 0, or less with a boom."""
    shapes: tuple[Shape, ...]
    spots: tuple[Spot, ...]


class BodySize(Model):
    """Drawn sizes of a body [mm]; how far from the front the first and the last axle stand, as shares of the length."""

    length: float
    width: float
    wheel: tuple[float, float]
    first: float
    last: float


SIZES: dict[Body, BodySize] = {
    "bus": BodySize(length=12_000, width=2_550, wheel=(1_000, 320), first=0.22, last=0.70),
    "van": BodySize(length=5_400, width=2_000, wheel=(680, 240), first=0.18, last=0.80),
    "tractor": BodySize(length=5_600, width=2_500, wheel=(1_000, 300), first=0.24, last=0.78),
    "tug": BodySize(length=3_400, width=1_700, wheel=(620, 260), first=0.22, last=0.76),
    "loader": BodySize(length=6_200, width=2_300, wheel=(1_300, 480), first=0.30, last=0.78),
    "stacker": BodySize(length=8_200, width=3_400, wheel=(1_600, 440), first=0.18, last=0.84),
    "forklift": BodySize(length=3_000, width=1_400, wheel=(640, 260), first=0.20, last=0.80),
    "trailer": BodySize(length=10_000, width=2_500, wheel=(1_000, 300), first=0.60, last=0.84),
    "stationary": BodySize(length=3_200, width=1_600, wheel=(0, 0), first=0.5, last=0.5),
}
SIDES: tuple[Side, ...] = ("left", "right")
GAP = 0.18
"""Between two wheels side by side, as a share of a wheel's width."""


def drawing_of(form: Form) -> Drawing:
    """A machine seen from above: its parts, and the spots where joints sit."""
    size = SIZES[form.body]
    shapes = [Shape(what="body", x_mm=0, y_mm=size.length / 2, width_mm=size.width, height_mm=size.length)]
    spots: list[Spot] = []
    for number, axle in enumerate(form.axles):
        share = size.first if len(form.axles) == 1 else size.first + (size.last - size.first) * number / (len(form.axles) - 1)
        y_mm = share * size.length
        shapes.append(Shape(what="axle", x_mm=0, y_mm=y_mm, width_mm=size.width, height_mm=size.wheel[1] * 0.35))
        spots.append(Spot(key=Position(axle=axle.name).key, wheel=False, x_mm=0, y_mm=y_mm, width_mm=900, height_mm=600))
        spots += [wheel for side in SIDES for wheel in _wheels(axle, side, size, y_mm)]
    shapes += _parts(form, size)
    spots += [Spot(key=each.what, wheel=False, **each.model_dump(exclude={"what"})) for each in shapes if each.what in ("engine", "hitch")]
    spots.append(Spot(key="body", wheel=False, x_mm=0, y_mm=size.length / 2, width_mm=900, height_mm=600))
    top_mm = min(shape.y_mm - shape.height_mm / 2 for shape in shapes)
    reach = max((abs(spot.x_mm) + spot.width_mm / 2 for spot in spots), default=0)
    return Drawing(
        width_mm=max(size.width, 2 * reach) * 1.06, height_mm=size.length - top_mm, top_mm=top_mm,
        shapes=tuple(shapes), spots=tuple(spots),
    )  # fmt: skip


def _wheels(axle: Axle, side: Side, size: BodySize, y_mm: float) -> list[Spot]:
    """The wheels at one end of an axle, the outer one first; both ends inside the body's width."""
    length, width = size.wheel
    outward = -1 if side == "left" else 1
    places = ("outer", "inner") if axle.duals else ("",)
    return [
        Spot(
            key=Position(axle=axle.name, side=side, place=place).key, wheel=True, y_mm=y_mm, width_mm=width, height_mm=length,
            x_mm=outward * (size.width / 2 - width * (number * (1 + GAP) - 0.2)),
        )
        for number, place in enumerate(places)
    ]  # fmt: skip


def _parts(form: Form, size: BodySize) -> list[Shape]:
    length, width = size.length, size.width
    at: dict[End, float] = {"front": 0.10, "middle": 0.50, "rear": 0.90}
    found: list[Shape] = []
    if form.engine is not None:
        tall = min(0.16 * length, 1_300)
        found.append(Shape(what="engine", x_mm=0, y_mm=at[form.engine] * length, width_mm=width * 0.42, height_mm=tall))
    if form.body in ("tractor", "van", "bus"):
        found.append(Shape(what="cab", x_mm=0, y_mm=0.02 * length + 450, width_mm=width * 0.86, height_mm=700))
    if form.body in ("tug", "loader", "stacker", "forklift"):
        found.append(Shape(what="cab", x_mm=0, y_mm=0.52 * length, width_mm=width * 0.5, height_mm=0.2 * length))
    if form.body in ("forklift", "stacker"):
        found.append(Shape(what="counterweight", x_mm=0, y_mm=0.97 * length, width_mm=width * 0.9, height_mm=0.06 * length))
    if form.boom:
        found.append(Shape(what="boom", x_mm=0, y_mm=0.16 * length, width_mm=width * 0.16, height_mm=0.56 * length))
    if form.hitch is not None:
        y_mm = {"front": 0.0, "middle": 0.68, "rear": 1.0}[form.hitch] * length
        found.append(Shape(what="hitch", x_mm=0, y_mm=y_mm, width_mm=width * 0.2, height_mm=350))
    return found


def spot_of(drawing: Drawing, position: Position, part: str) -> str:
    """The key of the spot to which a joint at a position belongs: the position's own, else the part, else the nearest wheel or axle.

    Args:
        part: where a joint without a position sits: the name of a part.
    """
    keys = {spot.key for spot in drawing.spots}
    wheel = next((spot.key for spot in drawing.spots if spot.wheel and spot.key.startswith(f"{position.axle}/{position.side}/")), "")
    of_axle = Position(axle=position.axle).key
    wanted = (position.key, wheel if position.side is not None else of_axle, part)
    return next((key for key in wanted if key in keys and key != "//"), "body")
