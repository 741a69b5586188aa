"""What a tablet takes along, so that a run can be started without the server; and a run that was started so."""

from collections.abc import Iterable
from uuid import UUID

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.base.models import Model, digest
from tight_ledger.core.base.people import Person
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.planning.choosing import Asked, CribNow, Offered, offer
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.runs.starting import Ground, MachineBefore, SpecBefore, Start, require_free_place, start


class Pack(Model):
    """The machines in the bay, the specs that fit them, and the crib, as the server knew them."""

    policy: Policy
    crib: CribNow
    certificates: dict[UUID, str]
    machines: tuple[MachineBefore, ...]
    specs: tuple[SpecBefore, ...]

    def ground(self, request: Start) -> Ground:
        """What a start is judged on.

        Raises:
            NotOnFile: the machine, or this revision of the spec, is not in the pack.
        """
        return Ground(
            policy=self.policy, crib=self.crib, certificates=self.certificates, machine=self.machine(request.machine),
            spec=self.spec(request.spec, request.revision),
        )  # fmt: skip

    def offered(self, spec: UUID, asked: Asked) -> Offered:
        """What the crib offers for a spec's stages.

        Raises:
            NotOnFile, Invalid: see `ground` and `offer`.
        """
        machine: Machine | None = self.machine(asked.machine).machine if asked.machine is not None else None
        return offer(self.crib, self.policy, self.spec(spec).spec, machine, asked)

    def with_open(self, places: Iterable[tuple[UUID, str, str]]) -> "Pack":
        """What is known, and besides that runs are open at these places: machine, position key and joint."""
        machines = {each.machine.id: each for each in self.machines}
        for machine_id, position_key, joint in places:
            if (known := machines.get(machine_id)) is not None:
                others = tuple(each for each in known.places if (each.position_key, each.joint) != (position_key, joint))
                place = known.place(position_key, joint).model_copy(update={"unfinished": True})
                machines[machine_id] = known.model_copy(update={"places": (*others, place)})
        return self.model_copy(update={"machines": tuple(machines.values())})

    def machine(self, machine_id: UUID) -> MachineBefore:
        """A machine that was taken along.

        Raises:
            NotOnFile: it was not.
        """
        found = next((each for each in self.machines if each.machine.id == machine_id), None)
        if found is None:
            raise NotOnFile("machine", "This tablet did not take this machine along.", "Go where the server answers.")
        return found

    def spec(self, spec_id: UUID, revision: int | None = None) -> SpecBefore:
        """A spec that was taken along; of one revision, or whichever.

        Raises:
            NotOnFile: it was not.
        """
        found = next((each for each in self.specs if each.spec.id == spec_id and revision in (None, each.spec.revision)), None)
        if found is None:
            raise NotOnFile("spec", "This tablet did not take this spec along.", "Go where the server answers.")
        return found


class Begun(Model):
    """A run that a tablet started without the server: what was prepared, and what it was compiled to."""

    id: UUID
    """Of its first entry; the run's own is in `start`."""
    start: Start
    by: UUID
    unproven: bool | None = None
    started: Started

    def first(self, device: UUID) -> Entry:
        """Its first entry, as the tablet knows it before the server has sealed it."""
        at = self.start.at_device
        return Entry(
            id=self.id, kind="started", by=self.by, recorded_by=self.by, device=device, at_device=at, at_server=at, run=self.start.id,
            seq=1, plan=digest(self.started.plan), started=self.started, unproven=self.unproven,
        )  # fmt: skip


def begin(pack: Pack, request: Start, me: Person, entry: UUID, *, unproven: bool) -> Begun:
    """Start a run from what was taken along.

    Args:
        entry: id of its first entry.
        unproven: whether nobody typed a PIN for `me`.

    Raises:
        NotOnFile, Invalid, NotAllowed, MustAsk, Stale: see `core.runs.starting`.
    """
    ground = pack.ground(request)
    require_free_place(ground, request)
    return Begun(id=entry, start=request, by=me.id, unproven=unproven or None, started=start(ground, request, me.roles))
