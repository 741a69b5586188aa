"""What the server says of an entry that was made where it could not look: a right that ended, a record that comes back."""

from collections.abc import Collection, Mapping
from datetime import timedelta
from uuid import UUID

from tight_ledger.core.base.display import span
from tight_ledger.core.base.people import Person, rights_of
from tight_ledger.core.records.entries import Flag
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context


def of_the_person(here: Mapping[UUID, Person], person: Person) -> Collection[Flag]:
    """A flag if somebody may not record work, or not any more. It names nobody: what is sealed cannot be erased.

    Args:
        here: those who work here now, by id.
    """
    now = here.get(person.id)
    if now is None:
        return (Flag(code="right_ended", words="by somebody who does not work here any more"),)
    if "work" not in rights_of(now.roles):
        return (Flag(code="right_ended", words="by somebody who may not record work any more"),)
    return ()


def brought_back(again: bool) -> Collection[Flag]:
    """A flag on what a tablet brings back after the server was restored from an older backup."""
    return (Flag(code="brought_back", words="brought back by a tablet after the server was restored"),) if again else ()


def kept_back(context: Context, tablet: UUID, waited_ms: int, *, explained: bool) -> Collection[Flag]:
    """A flag if a tablet delivers only now what it could have sent while the server was answering it.

    Args:
        waited_ms: how long it was kept there, as the tablet says.
        explained: whether it is known why: a question of the server had to be answered, or it was acknowledged before.
    """
    waited = timedelta(milliseconds=waited_ms)
    if not context.answering.delivers(tablet, context.now(), waited) or explained:
        return ()
    return (Flag(code="kept_back", words=f"kept on its tablet for {span(waited.total_seconds())} while the server was answering it"),)


def unproven(actor: Actor, by: UUID, *, claimed: bool | None) -> bool | None:
    """Whether the server marks an entry as not proven. It does if the entry names somebody other than the person who pressed it,
    or if it cannot be shown who pressed it. None instead of False, so that a proven entry keeps its form.

    Args:
        by: in whose name it was recorded.
        claimed: whether the tablet says itself that no PIN was typed.
    """
    return (claimed or actor.unproven or by != actor.person.id) or None
