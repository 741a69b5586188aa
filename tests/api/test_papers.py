"""Papers that take long to draw: beside the server, and once for all who ask at the same time."""

import asyncio
import os

from tight_ledger.api.papers import LARGE, drawn


def drawn_in(*_said) -> bytes:
    """Says in which process it runs, and is another one each time."""
    return f"{os.getpid()} ".encode() + os.urandom(8)


async def test_a_large_paper_is_drawn_in_another_process_once_for_all_who_ask():
    first, second, other = await asyncio.gather(drawn(LARGE, drawn_in, 1), drawn(LARGE, drawn_in, 1), drawn(LARGE, drawn_in, 2))
    assert first == second != other
    assert first.split()[0] != str(os.getpid()).encode()
    assert await drawn(LARGE, drawn_in, 1) != first  # asked for later it is drawn anew


async def test_a_small_one_is_drawn_here():
    assert (await drawn(LARGE - 1, drawn_in)).split(b" ")[0] == str(os.getpid()).encode()
