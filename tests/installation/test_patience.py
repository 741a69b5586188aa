"""Connections that send no request, bodies that do not end, and a wrench that does not say who it is are not waited for."""

import asyncio

import pytest
from uvicorn import Config
from uvicorn.server import ServerState

from tight_ledger.api import devices, guard
from tight_ledger.api.guard import TurnedAway
from tight_ledger.installation import patience
from tight_ledger.installation.patience import MOST_WAITING, PatientProtocol

REQUEST = b"GET /api/health HTTP/1.1\r\nhost: localhost\r\n\r\n"


class Wire(asyncio.Transport):
    """A connection from an address."""

    def __init__(self, address):
        super().__init__({"peername": (address, 5_000), "sockname": ("127.0.0.1", 80)})
        self.is_open, self.ended = True, asyncio.Event()

    def abort(self):
        self.is_open = False
        self.ended.set()

    close = abort

    def write(self, data):
        pass

    def is_closing(self):
        return not self.is_open

    def pause_reading(self):
        pass

    resume_reading = pause_reading


async def nothing(scope, receive, send):
    if scope["path"] == "/of-a-tablet":
        scope["tablet"] = "somebody is signed in there"
    await send({"type": "http.response.start", "status": 204, "headers": []})
    await send({"type": "http.response.body", "body": b""})


@pytest.fixture
def connect():
    config, state, opened = Config(nothing, log_level="critical", lifespan="off"), ServerState(), []

    def made(address="10.0.0.9"):
        protocol, wire = PatientProtocol(config, state, {}), Wire(address)
        protocol.connection_made(wire)
        opened.append((protocol, wire))
        return protocol, wire

    yield made
    for protocol, _ in opened:
        protocol.connection_lost(None)


async def test_the_oldest_of_an_address_that_asks_nothing_makes_room_for_the_newest(connect):
    busy, wire = connect()
    busy.data_received(REQUEST)
    idle = [connect()[1] for _ in range(MOST_WAITING)]
    assert all(each.is_open for each in idle)
    assert connect("10.0.0.10")[1].is_open
    newest = connect()[1]
    assert [each.is_open for each in (idle[0], idle[1], newest, wire)] == [False, True, True, True]
    await answered()


async def answered():
    await asyncio.gather(*asyncio.all_tasks() - {asyncio.current_task()})


async def test_connections_that_stay_open_after_their_answer_count_for_their_address_and_a_tablets_for_itself(connect):
    async def asked(request=REQUEST):
        protocol, wire = connect()
        protocol.data_received(request)
        await answered()
        return wire

    tablet = await asked(REQUEST.replace(b"/api/health", b"/of-a-tablet"))
    first, second, *_ = [await asked() for _ in range(MOST_WAITING + 1)]
    assert [wire.is_open for wire in (tablet, first, second)] == [True, False, True]


async def test_headers_that_do_not_come_to_their_end_are_not_waited_for(connect, monkeypatch):
    monkeypatch.setattr(patience, "HEADERS_S", 0.01)
    silent, slow = connect()[1], connect()
    slow[0].data_received(REQUEST[:20])
    await asyncio.gather(silent.ended.wait(), slow[1].ended.wait())


async def never():
    await asyncio.Event().wait()


async def test_a_body_that_does_not_end_is_refused_and_what_comes_after_it_is_waited_for(monkeypatch):
    monkeypatch.setattr(guard, "BODY_S", 0.01)
    with pytest.raises(TurnedAway) as refused:
        await guard._counted(never, 100)()
    assert refused.value.status == 408
    parts = iter([{"type": "http.request", "body": b"x", "more_body": False}, {"type": "http.disconnect"}])

    async def receive():
        return next(parts)

    counted = guard._counted(receive, 100)
    await counted()
    monkeypatch.setattr(guard, "BODY_S", -1.0)
    assert (await counted())["type"] == "http.disconnect"


async def test_a_wrench_that_does_not_say_who_it_is_is_sent_away(monkeypatch):
    monkeypatch.setattr(devices, "HELLO_S", 0.01)

    class Socket:
        said, closed = "", False
        receive_text = staticmethod(never)

        async def send_text(self, text):
            self.said = text

        async def close(self):
            self.closed = True

    assert await devices._hello(socket := Socket(), None) is None
    assert (socket.closed, "hello" in socket.said) == (True, True)
