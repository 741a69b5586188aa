"""The device protocol, version 1: JSON over a WebSocket, one message a frame. See docs/devices.md.

A wrench says hello with the code that the run's screen shows, is told what to pull, tells live figures while it is
held, and after each pull tells it whole, with an id of its own. What was not acknowledged it sends again.
"""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, TypeAdapter

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.base.units import ReadingUnit

VERSION: Literal[1] = 1
MOST_POINTS = 2_000


class Hello(Model):
    """From the wrench: who it is, and the code."""

    type: Literal["hello"]
    v: Literal[1]
    code: str = Field(min_length=4, max_length=12)
    name: str = Field(default="", max_length=80)
    instrument: UUID | None = None
    """Under which it was registered; without it, it is simulated, and what it tells is practice."""
    key: str = Field(default="", max_length=200)


class Live(Model):
    """From the wrench, at most ten times a second."""

    type: Literal["live"]
    torque_nm: float = Field(ge=0, le=1e5)
    angle_deg: float = Field(ge=-3_600, le=36_000)


class Told(Model):
    """From the wrench: a pull is over. `at` is by its own clock."""

    type: Literal["pulled"]
    id: UUID
    at: DeviceTime
    torque_nm: float = Field(ge=0, le=1e5)
    angle_deg: float = Field(ge=0, le=36_000)
    curve: tuple[tuple[float, float], ...] = Field(default=(), max_length=MOST_POINTS)


class GaugeLive(Model):
    """From a gauge, at most ten times a second: where its needle stands."""

    type: Literal["needle"]
    figure: float = Field(ge=0, le=1e6)
    unit: ReadingUnit


class GaugeRead(Model):
    """From a gauge: its button was pressed. `at` is by its own clock."""

    type: Literal["read"]
    id: UUID
    at: DeviceTime
    figure: float = Field(ge=0, le=1e6)
    unit: ReadingUnit


class Trouble(Model):
    """From the wrench: its battery is low, it is out of range of its own, it was overloaded."""

    type: Literal["trouble"]
    what: Literal["battery", "overload", "out of range"]


FromWrench = Annotated[Hello | Live | Told | GaugeLive | GaugeRead | Trouble, Field(discriminator="type")]
FROM_WRENCH: TypeAdapter[FromWrench] = TypeAdapter(FromWrench)


class Target(Model):
    """To the wrench: what the run asks for now; nothing to pull if kind is none."""

    type: Literal["target"] = "target"
    kind: Literal["torque", "angle", "check", "read", "none"]
    pull: str | None = None
    fastener: str | None = None
    torque_nm: float | None = None
    low_nm: float | None = None
    high_nm: float | None = None
    angle_deg: float | None = None
    yields: bool = False
    say: str = ""
    what: str = ""
    """Of a reading: what is read, in which stored unit, and its band."""
    unit: ReadingUnit | None = None
    low: float | None = None
    high: float | None = None
    taken: int = 0
    """Number of readings taken for this pull so far. It makes the target for the next reading differ from the last one."""
    before: str = ""
    """What is done before the reading counts; the press of the gauge's button says that it was."""
    adjusts: str = ""
    """The adjuster that uses the reading, and the setting at which it stands; for a simulated joint."""
    at: float = 0.0
    travel: float = 0.0

    @property
    def is_pull(self) -> bool:
        """Whether a wrench can do it."""
        return self.kind in ("torque", "angle", "check")


class Paired(Model):
    """To the wrench: the code was right."""

    type: Literal["paired"] = "paired"
    v: Literal[1] = VERSION
    run: UUID


class Ack(Model):
    """To the wrench: this pull is in the ledger; forget it."""

    type: Literal["ack"] = "ack"
    id: UUID


class Refused(Model):
    """To the wrench: why not."""

    type: Literal["refused"] = "refused"
    id: UUID | None = None
    fault: str
