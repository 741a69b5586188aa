"""Tags and lists to be printed, made from what the use cases return."""

from collections.abc import Sequence
from datetime import datetime

from tight_ledger.core.base.errors import Invalid
from tight_ledger.formats.tags import DueLine, Tag, due_pdf, tags_pdf
from tight_ledger.services.dates import day_words, moment_words
from tight_ledger.services.runs.views import Card
from tight_ledger.services.standing import OpenFollowup
from tight_ledger.store.shop import Shop

ONLY_A_LEAD = "Only a lead lifts this, in the record. Taking the tag off changes nothing."


def due_words(each: OpenFollowup, shop: Shop) -> str:
    """`due: after 80 km: 91 km run, at the latest 12 Dec 2026`."""
    by = f"at the latest {day_words(shop, each.due.by_date)}" if each.due.by_date is not None else ""
    status = "to come" if each.due.status == "waiting" else "due soon" if each.due.status == "soon" else each.due.status
    return f"{status}: {', '.join(part for part in (each.due.words, by) if part)}"


def due_document(shop: Shop, followups: Sequence[OpenFollowup], now: datetime) -> bytes:
    """The list of what is due, as PDF."""
    lines = [
        DueLine(
            machine=each.fleet_number, where=f"{each.position} {each.title}".strip(), due=due_words(each, shop),
            needs=f"{', '.join(each.wrenches)} · {each.fasteners} fasteners, 1 person, about {each.minutes} min",
        )
        for each in followups
    ]  # fmt: skip
    return due_pdf(shop.name, day_words(shop, now), lines)


def followup_tag(shop: Shop, each: OpenFollowup, base: str) -> bytes:
    """The tag of a follow-up, as PDF."""
    lines = (each.title, due_words(each, shop), f"Needs {', '.join(each.wrenches)}.", each.due.begins_again)
    where = f"{each.fleet_number} {each.position}".strip()
    tag = Tag("RE-TORQUE", where, tuple(line for line in lines if line), f"{base}/go/followup/{each.root}/{each.due.followup}")
    return tags_pdf([tag])


def red_tag(card: Card, base: str) -> bytes:
    """The tag of a joint that must not move, as PDF.

    Raises:
        Invalid: the run stands otherwise.
    """
    if card.now.standing != "do not move":
        raise Invalid("run", "This joint may move.", "Print the tag of one that stands as do not move.")
    sheet, ended = card.sheet, next(line for line in reversed(card.entries) if line.kind == "finished")
    lines = (sheet.title, *card.now.reasons, f"{ended.by}, {moment_words(card, ended.at)}", ONLY_A_LEAD)
    where = f"{sheet.machine.fleet_number} {sheet.position_words}".strip()
    return tags_pdf([Tag("DO NOT MOVE", where, lines, f"{base}/runs/{sheet.run}/card", red=True)])
