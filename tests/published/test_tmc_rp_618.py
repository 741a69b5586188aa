"""TMC RP 618, adjustment of wheel bearings. From memory. Compared: the end play it asks for, the travel of a nut by its thread."""

import pytest

from tight_ledger.core.adjust.hub import HubFigures, advise
from tight_ledger.core.adjust.proposals import Try
from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.units import to_stored

BAND = Band(quantity="length", low=to_stored(0.001, "in"), high=to_stored(0.005, "in"))


@pytest.mark.parametrize(("positions", "thou"), [(6, 13.9), (8, 10.4), (12, 6.9)])
def test_how_far_a_nut_of_twelve_threads_an_inch_moves_by_a_part_turn(positions, thou):
    figures = HubFigures(by="hub", band=BAND, graduation=to_stored(0.5, "thou"), pitch_mm=25.4 / 12, positions=positions)
    assert figures.travel_mm / 0.0254 == pytest.approx(thou, abs=0.05)


@pytest.mark.parametrize(("thou", "good"), [(0.0, False), (1.0, True), (3.0, True), (5.0, True), (6.0, False)])
def test_one_to_five_thousandths_of_end_play(thou, good):
    figures = HubFigures(by="hub", band=BAND, graduation=to_stored(0.5, "thou"), pitch_mm=25.4 / 12, positions=72)
    seen = (Try(at=0, reading=0.0), Try(at=4, reading=to_stored(thou, "thou") if thou else 0.0))
    assert (advise(figures, seen).do == "accept") == good
