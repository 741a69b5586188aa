"""The program and its database as processes: stopped in order, started again, honest about room."""

import signal
import socket
from collections import namedtuple
from pathlib import Path
from uuid import uuid4

import httpx
import pytest

from tests.shop import Shop
from tests.waiting import PATIENCE_S, until
from tight_ledger.services import dashboard


@pytest.fixture(scope="module")
def own(tmp_path_factory):
    shop = Shop(tmp_path_factory.mktemp("own") / "data").start()
    yield shop
    if shop.process.poll() is None:
        shop.stop()


def test_a_database_that_dies_is_started_again_and_nothing_is_lost(own):
    tam = own.hand()
    run = tam.start()
    first, pid = tam.entry("noted", text="before"), own.database_pid()
    assert tam.post(run, first).status_code == 201
    own.kill_database()
    second = tam.entry("noted", text="after")
    meanwhile = set()
    until(lambda: meanwhile.add(status := tam.post(run, second).status_code) or status == 201)
    assert meanwhile <= {201, 503}
    assert own.database_pid() != pid
    assert [line["words"] for line in tam.get(f"/api/runs/{run}/entries")][1:] == ["noted (before)", "noted (after)"]


@pytest.mark.parametrize("path", ["/api/runs", "/api/attachments/00000000-0000-4000-8000-00000000000a"])
def test_a_client_that_leaves_in_mid_body_is_no_mistake_of_the_server(own, path):
    known, kind = str(uuid4()), "json" if path == "/api/runs" else "octet-stream"
    hand = own.hand()
    said = f"{'POST' if kind == 'json' else 'PUT'} {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Request-Id: {known}\r\nContent-Type: application/{kind}\r\n"
    said += f"Cookie: {'; '.join(f'{name}={value}' for name, value in hand.http.cookies.items())}\r\nContent-Length: 1000\r\n\r\n{{"
    with socket.create_connection(("127.0.0.1", own.port)) as leaves:
        leaves.sendall(said.encode())
    lines = until(lambda: [line for line in own.log() if line.get("request") == known], lambda told: any("status" in line for line in told))
    assert [line["status"] for line in lines if "status" in line] == [400]
    assert all(line["level"] == "info" for line in lines)
    assert hand.get("/api/health")


def test_asked_to_stop_it_stops_the_database_too_and_waits_for_no_slow_client(own):
    slow = socket.create_connection(("127.0.0.1", own.port))
    slow.sendall(b"POST /api/runs HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 1000\r\n\r\n{")
    pid = own.database_pid()
    own.leave()
    own.process.send_signal(signal.SIGTERM)
    assert own.process.wait(timeout=PATIENCE_S) == 0
    slow.close()
    assert not Path(f"/proc/{pid}").exists()
    with pytest.raises(httpx.ConnectError):
        httpx.get(own.url)


def test_little_room_is_said_early(monkeypatch, tmp_path):
    usage = namedtuple("usage", "total used free")
    for free_mb, said in ((1_500, 1_500), (30_000, None)):
        monkeypatch.setattr(dashboard.shutil, "disk_usage", lambda _path, free=free_mb: usage(0, 0, free * 1_000_000))
        assert dashboard._little_room_mb(tmp_path) == said
