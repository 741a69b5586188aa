"""Clients that record without a pause while something is killed, and what must hold of it afterwards."""

import threading
import time
from contextlib import contextmanager

import httpx

from tests.waiting import LOOKS_EVERY_S, PATIENCE_S

CLIENTS = 4


@contextmanager
def at_work(proxied, tam, repeated=()):
    """Clients record without a pause; each client has its own run. Yields what was sent (by run), what was refused, what was sent again.

    A request that is answered with a `repeated` status is sent again, as a tablet does.
    """
    cookies, stop = dict(tam.http.cookies), threading.Event()
    sent, troubles, again = {tam.start(): [] for _ in range(CLIENTS)}, [], []

    def work(run):
        with httpx.Client(base_url=proxied.url, cookies=cookies, timeout=60) as http:
            while not stop.is_set():
                entry = tam.entry("noted", text="still here")
                answer = None
                while answer is None or (answer.status_code in repeated and not stop.is_set()):
                    try:
                        answer = http.post(f"/api/runs/{run}/entries", json=entry)
                    except httpx.TransportError:  # cut off in the middle of an answer: a tablet sends it again, by its id
                        again.append(entry["id"])
                if answer.status_code in repeated:
                    return
                sent[run].append(entry["id"])
                if answer.status_code != 201:
                    troubles.append((answer.status_code, answer.text[:200]))

    clients = [threading.Thread(target=work, args=(run,)) for run in sent]
    for each in clients:
        each.start()
    try:
        yield sent, troubles, again
    finally:
        stop.set()
        for each in clients:
            each.join()


def goes_on(sent, within_s=PATIENCE_S):
    """Whether the server acknowledges a further entry of every client."""
    before, given_up = {run: len(ids) for run, ids in sent.items()}, time.monotonic() + within_s
    while not (going_on := all(len(ids) > before[run] for run, ids in sent.items())) and time.monotonic() < given_up:
        time.sleep(LOOKS_EVERY_S)
    return going_on


def each_stands_once(sent, tam):
    """What was acknowledged stands in its own run, once."""
    for run, ids in sent.items():
        noted = [line["id"] for line in tam.get(f"/api/runs/{run}/entries") if line["kind"] == "noted"]
        assert len(ids) > 2
        assert sorted(noted) == sorted(ids)
