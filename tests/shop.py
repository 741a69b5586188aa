"""The real application for tests: its own process, its own MariaDB, its own data directory."""

import json
import os
import signal
import ssl
import subprocess
import time
from contextlib import contextmanager, suppress
from datetime import datetime, timedelta
from pathlib import Path
from uuid import UUID, uuid4
from weakref import WeakSet

import httpx
from sqlalchemy import create_engine, text

from tests.clock import START, Clock
from tests.programs import Program, run
from tests.template import copy_template
from tight_ledger.core.tools.scales import scale
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.demo.load import demo_id, specs
from tight_ledger.store import clock
from tight_ledger.store.server import OWNER, SERVING, PrivateServer, free_port

ROOT = Path(__file__).parents[1]
PINS = {"Ines Okoro": "2468", "Tam Reddick": "1357", "Wren Halloway": "8642", "Odile Farrant": "7093"}
BUS_SPEC = demo_id("spec", "Fennick Causeway 12 Rear wheel nuts")
W11 = demo_id("wrench", "W-11 one-inch")


AUTHORITIES = ssl.create_default_context()
"""Made once: to read them takes longer than to ask."""
ENVIRONMENT = os.environ | {"PYTHONDONTWRITEBYTECODE": ""}


def load_demo(data: Path, at: datetime) -> None:
    """The data of a shop that was started once with the demo's, and stopped."""
    shop = Shop(data, at=at).up()
    shop.stop()
    shop.log_file.unlink()


class Shop:
    scheme, address = "http", "127.0.0.1"
    running_now: "WeakSet[Shop]" = WeakSet()

    def __init__(self, data: Path, *options: str, environment: dict[str, str] | None = None, at: datetime = START):
        self.data, self.options, self.port = data, options, free_port()
        self.at, self.clock = at, Clock(data.with_name(f"{data.name}.clock"), at)
        self.environment = {clock.VARIABLE: str(self.clock.file)} | (environment or {})
        self.process = None
        self.hands = []
        self.tablets: dict[str, str] = {}
        self.sessions: dict[tuple[str, str], str] = {}
        self.employed: dict[str, str] = {}

    @property
    def trusts(self) -> ssl.SSLContext:
        """Whom a client of this shop trusts."""
        return AUTHORITIES if self.scheme == "http" else ssl.create_default_context()

    @property
    def url(self) -> str:
        return f"{self.scheme}://{self.address}:{self.port}"

    @contextmanager
    def running(self, *arguments: str):
        """A command that goes on by itself, for as long as the block lasts."""
        with Path(os.devnull).open("wb") as nowhere:
            given = ENVIRONMENT | self.environment | {"TIGHT_DATA": str(self.data)}
            process = Program(*arguments, environment=given, stdout=nowhere, stderr=nowhere)
        try:
            yield
        finally:
            process.kill()
            process.wait()

    def run(self, *arguments: str, timeout: int = 120, may_run_out: bool = False, environment: dict | None = None):
        given = ENVIRONMENT | self.environment | {"TIGHT_DATA": str(self.data)} | (environment or {})
        if arguments[0] == "restore":
            self.tablets.clear()  # those that were introduced since are not in the backup
        try:
            return run(*arguments, environment=given, timeout=timeout)
        except subprocess.TimeoutExpired:
            if may_run_out:
                return None
            raise

    def start(self) -> "Shop":
        given = ENVIRONMENT | self.environment
        own = "TIGHT_DATABASE_URL" not in given and not (self.data / "mariadb").exists()
        if not self.options and own:
            copy_template(self.data, self.at, load_demo)
        return self.up()

    def up(self) -> "Shop":
        """Start it; on another port, if something else took this one since it was found free."""
        again = self.process is not None
        while not self._is_up():
            said = self.log_file.read_text()[-2_000:]
            assert not again, f"the shop did not start again: {said}"
            assert "is taken" in said, f"the shop did not start: {said}"
            self.port = free_port()
        self.running_now.add(self)
        return self

    def _is_up(self) -> bool:
        known = self.log_file.stat().st_size if self.log_file.exists() else 0
        given = ENVIRONMENT | self.environment | {"TIGHT_DATA": str(self.data)}
        with self.log_file.open("ab") as log, Path(os.devnull).open("wb") as nowhere:
            served = ("up", "--port", str(self.port), "--log", "json", *self.options)
            self.process = Program(*served, environment=given, stdout=nowhere, stderr=log)
        for _ in range(2_400):
            if self.process.poll() is not None:
                return False
            if b'"event": "started"' in self.log_file.read_bytes()[known:]:  # until then another program may answer on this port
                with suppress(httpx.HTTPError):
                    httpx.get(f"{self.url}/api/sign-in", verify=self.trusts).raise_for_status()
                    return True
            time.sleep(0.05)
        raise TimeoutError

    def __enter__(self) -> "Shop":
        return self.start()

    def __exit__(self, *_: object) -> None:
        self.stop()

    @property
    def log_file(self) -> Path:
        self.data.mkdir(parents=True, exist_ok=True)
        return self.data / "log.jsonl"

    def log(self) -> list[dict]:
        return [json.loads(line) for line in self.log_file.read_text().splitlines() if line.startswith("{")]

    def setup_code(self) -> str:
        return (self.data / "setup-code").read_text()

    def beside(self, data: Path, *options: str, scheme: str = "http") -> "Shop":
        """A second server process over the same database."""
        server = self.database()
        urls = {"TIGHT_DATABASE_URL": SERVING, "TIGHT_OWNER_DATABASE_URL": OWNER}
        given = {name: server.url(account).render_as_string(hide_password=False) for name, account in urls.items()}
        given |= {"TIGHT_PROOF": str(self.data / "proof"), clock.VARIABLE: str(self.clock.file)}
        other = Shop(data, *options, environment=given)
        other.scheme = scheme
        return other.start()

    def leave(self) -> None:
        for hand in self.hands:
            hand.http.close()
        self.hands.clear()

    def stop(self) -> None:
        self.running_now.discard(self)
        self.leave()
        self.process.send_signal(signal.SIGINT)
        assert self.process.wait(timeout=60) == 0

    def kill_server(self) -> None:
        self.process.kill()
        self.process.wait()

    def database_pid(self) -> int:
        return int((self.data / "mariadb.pid").read_text())

    def kill_database(self) -> None:
        pid = self.database_pid()
        os.kill(pid, signal.SIGKILL)
        while Path(f"/proc/{pid}/exe").exists() and "Z" not in Path(f"/proc/{pid}/stat").read_text().split(")")[1][:3]:
            time.sleep(0.05)

    def database(self) -> PrivateServer:
        server = PrivateServer(self.data)
        server.port = server.running_port()
        return server

    def entries_of(self, person: str) -> int:
        """How many entries of the ledger name somebody."""
        engine = create_engine(self.database().url(OWNER), isolation_level="AUTOCOMMIT")
        with engine.connect() as connection:
            found = connection.execute(text("SELECT COUNT(*) FROM ledger WHERE body LIKE :p"), {"p": f"%{person}%"}).scalar_one()
        engine.dispose()
        return int(found)

    def instrument(self) -> dict:
        """A wrench that a lead has registered: how it says who it is."""
        made = {"name": f"wrench {uuid4().hex[:6]}", "key": uuid4().hex}
        known = str(uuid4())
        assert self.hand("Ines Okoro").http.post("/api/instruments", json={"id": known} | made).status_code == 204
        return {"instrument": UUID(known), "key": made["key"]}

    def person(self, name: str) -> str:
        return self.employed.get(name) or str(demo_id("person", name))

    def employ(self, *roles: str) -> str:
        """Somebody new, put on the list by the keeper. Returns their name."""
        body = {"name": f"Guest {uuid4().hex[:6]}", "roles": roles, "pin": "4711"}
        answer = self.hand("Ines Okoro").command("/api/people", body)
        assert answer.status_code == 201, answer.text
        self.employed[body["name"]], PINS[body["name"]] = answer.json()["id"], body["pin"]
        return body["name"]

    def tablet(self, name: str) -> str:
        """The secret of a tablet of this name; introduced once, by the lead."""
        if name not in self.tablets:
            body = {"id": str(uuid4()), "name": name, "person": self.person("Ines Okoro"), "pin": PINS["Ines Okoro"]}
            answer = httpx.post(f"{self.url}/api/tablets", json=body, timeout=30, verify=self.trusts)
            assert answer.status_code == 204, answer.text
            self.tablets[name] = answer.cookies["tight_tablet"]
        return self.tablets[name]

    def session(self, name: str, tablet: str) -> str:
        """Somebody is signed in at a tablet: the session's secret, the same as long as it holds."""
        key = name, self.tablet(tablet)
        cookies = {"tight_tablet": key[1], "tight_session": self.sessions.get(key, "")}
        with httpx.Client(base_url=self.url, timeout=30, cookies=cookies, verify=self.trusts) as http:
            if key not in self.sessions or http.get("/api/me").status_code != 200:
                answer = http.post("/api/sessions", json={"person": self.person(name), "pin": PINS[name]})
                assert answer.status_code == 201, answer.text
                self.sessions[key] = answer.cookies["tight_session"]
        return self.sessions[key]

    def hand(self, name: str = "Tam Reddick", tablet: str = "") -> "Hand":
        """Somebody at a tablet; at one that only they use, unless another is named."""
        self.hands.append(Hand(self, name, tablet))
        return self.hands[-1]


def middle_of(prompt: dict) -> tuple[float, str]:
    """What a gauge would show in the middle of the band; nothing without one."""
    band = prompt["band"]
    return ((float(band["low"]) + float(band["high"])) / 2, band["unit"]) if band else (0.0, prompt["units"][0])


class Hand:
    """Somebody at a tablet, without the screen."""

    def __init__(self, shop: Shop, name: str, tablet: str = ""):
        tablet = tablet or f"bench {list(PINS).index(name)}"
        self.id = shop.person(name)
        self.clock, self.shops_clock = shop.clock.now() - timedelta(hours=1), shop.clock
        known = {"tight_tablet": shop.tablet(tablet), "tight_session": shop.session(name, tablet)}
        hooks = {"request": [self._takes_time]}
        self.http = httpx.Client(base_url=shop.url, timeout=30, cookies=known, verify=shop.trusts, event_hooks=hooks)

    def _takes_time(self, request: httpx.Request) -> None:
        """Whatever somebody does comes a second after what was done before it."""
        if request.method != "GET":
            self.shops_clock.wind(seconds=1)

    def command(self, path: str, body: dict | None = None, method: str = "POST", **query) -> httpx.Response:
        """What changes something, with an id made for it."""
        return self.http.request(method, path, json={"id": str(uuid4())} | (body or {}), params=query)

    def add_tool(self, tool: dict) -> httpx.Response:
        """Into the crib; a wrench that is set by lines is read back as it is described."""
        seen = {}
        if tool["kind"] == "wrench":
            drawn = self.http.post("/api/tools/scale", json=tool).json()
            sides = zip(("seen", "seen_second"), Wrench.model_validate(tool).sides(), (drawn, drawn["second"]), strict=False)
            for name, side, proof in sides:
                set_to = scale(side, proof["figure"])
                seen[name] = {"line": set_to.line, "thimble": set_to.thimble or 0} if proof["needed"] else None
        return self.http.post("/api/tools", json={"id": tool["id"], "tool": tool} | seen)

    def get(self, path: str, **query):
        answer = self.http.get(path, params=query)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def along(self) -> dict:
        """The list of what a tablet takes along, all its parts, and what the core makes of them."""
        taken = {"list": self.get("/api/runs/along"), "shop": None, "machines": [], "specs": [], "runs": []}
        names = list(taken["list"]["parts"])
        for first in range(0, len(names), 20):
            parts = self.http.post("/api/runs/along/parts", json={"names": names[first : first + 20]}).json()
            taken |= {kind: taken[kind] + parts[kind] for kind in ("machines", "specs", "runs")}
            taken["shop"] = parts["shop"] or taken["shop"]
        shop, specs = taken["shop"], [part for part in taken["specs"] if part["startable"]]
        taken["pack"] = {name: shop[name] for name in ("policy", "crib", "certificates")} | {
            "machines": [part["before"] for part in taken["machines"]],
            "specs": [{"spec": part["file"]["spec"], "status": part["file"]["status"], "checked": part["checked"]} for part in specs],
        }
        return taken

    def places(self) -> list[dict]:
        """The places that need somebody, as the home screen lists them by machine."""
        return [place for line in self.get("/api/dashboard")["bay"] for place in line["places"]]

    def machine(self, maker_model: str = "Fennick Causeway 12", meters=("km",)) -> str:
        body = {"id": str(uuid4()), "fleet_number": f"T-{uuid4().hex[:6]}", "maker_model": maker_model, "meters": meters}
        return self.http.post("/api/machines", json=body).json()["id"]

    def start_body(self, machine: str, /, wrench: str = str(W11), **changes) -> dict:
        on_its_end, tilt = changes.pop("on_its_end", []), changes.pop("tilt_deg", 0)
        return {
            "id": str(uuid4()), "spec": str(BUS_SPEC), "revision": 1, "procedure": "tighten", "machine": machine,
            "tooling": [{"wrench": wrench, "on_its_end": on_its_end, "tilt_deg": tilt}], "position": {"axle": "rear", "side": "left"}, "proof": "10 studs, M22", "at_device": self.clock.isoformat(),
        } | changes  # fmt: skip

    def start(self, machine: str | None = None, **changes) -> str:
        answer = self.http.post("/api/runs", json=self.start_body(machine or self.machine(), **changes))
        assert answer.status_code == 201, answer.text
        return answer.json()["id"]

    def begun(self) -> str:
        """A run of the bus's wheel whose wrench is set for its first pull."""
        run = self.start()
        self.act(run, now := self.go_on(run, until="s1:1"), now["prompt"]["acts"][0])
        return run

    def tooling(self, spec: str, position: dict) -> list[dict]:
        """The crib's own proposal: the best wrench, or several that share it."""
        offered = self.http.post(f"/api/specs/{spec}/tooling", json={"position": position}).json()
        best = next((choice["wrench"] for choice in offered["choices"] if not choice["refused"]), None)
        if best is not None:
            return [{"wrench": best["id"], "unit": best["unit"]}]
        assert offered["left"] == []
        return [
            {"wrench": share["wrench"], "unit": share["unit"], "of": need["labels"], "steps": [need["step"]]}
            for share in offered["shares"]
            for need in share["needs"]
        ]

    def begin(self, model: str, title: str, proof: str, variant=(), **position) -> str:
        """A run of the demo's library on a machine of one's own."""
        machine = self.machine(model, meters=())
        spec = next(
            str(each.id) for each in specs() if each.title == title and f"{each.applies_to[0].maker} {each.applies_to[0].model}" == model
        )
        for attribute, value in variant:
            body = {"id": str(uuid4()), "attribute": attribute, "value": value}
            assert self.http.post(f"/api/machines/{machine}/variant", json=body).status_code == 200
        body = self.start_body(machine, spec=spec, proof=proof, position=position) | {"tooling": self.tooling(spec, position)}
        answer = self.http.post("/api/runs", json=body)
        assert answer.status_code == 201, answer.text
        return body["id"]

    def entry(self, kind: str, after_s: float = 6, **fields) -> dict:
        self.clock += timedelta(seconds=after_s)
        self.shops_clock.wind(seconds=after_s)
        return {"id": str(uuid4()), "kind": kind, "by": self.id, "at_device": self.clock.isoformat()} | fields

    def post(self, run: str, entry: dict) -> httpx.Response:
        return self.http.post(f"/api/runs/{run}/entries", json=entry)

    def record(self, run: str, kind: str, **fields) -> dict:
        answer = self.post(run, self.entry(kind, **fields))
        assert answer.status_code == 201, answer.text
        return answer.json()["now"]

    def now(self, run: str) -> dict:
        return self.get(f"/api/runs/{run}/now")

    def go_on(self, run: str, until: str | None = None, moved=lambda pull: False) -> dict:
        now = self.now(run)
        while (prompt := now["prompt"])["ask"] not in ("finish", "stop") and prompt["pull"] != until:
            if prompt["ask"] == "measure":
                now = self.act_measured(run, now, *middle_of(prompt))
                continue
            act = prompt["acts"][1 if prompt["ask"] == "turned" and moved(prompt["pull"]) else 0]
            now = self.act(run, now, act)
        return now

    def act(self, run: str, now: dict, act: dict, **fields) -> dict:
        """One of the things that the prompt says can have happened."""
        prompt, said = (
            now["prompt"],
            {name: act[name] for name in ("how", "moved", "option", "adjusted", "setting", "counts", "text") if act[name] is not None},
        )
        said |= {} if act["unplanned"] and act["kind"] == "set" else {"fastener": prompt["fastener"]}
        said |= {} if act["unplanned"] else {"pull": prompt["pull"]}
        said |= {"tools": [self.get(f"/api/runs/{run}/sheet")["tools"][prompt["tooling"]]["wrench"]["id"]]} if act["kind"] == "set" else {}
        return self.record(run, act["kind"], claimed_seq=now["seq"] + 1, **said | fields)

    def act_measured(self, run: str, now: dict, figure: float, unit: str, **fields) -> dict:
        """A reading at a gauge, for what is asked now, taken as its method says."""
        prompt = now["prompt"]
        said = {"pull": prompt["pull"], "fastener": prompt["fastener"], "how": "typed"}
        said |= {"reading": {"figure": figure, "unit": unit, "where": "gauge"}} if "needle" not in fields else {}
        said |= {"method": prompt["method"]["name"]} if prompt["method"] else {}
        return self.record(run, "measured", claimed_seq=now["seq"] + 1, **said | fields)

    def finish(self, run: str, outcome: str = "good", text: str = "") -> httpx.Response:
        body = {"id": str(uuid4()), "outcome": outcome, "text": text, "seq": self.now(run)["seq"], "at_device": self.clock.isoformat()}
        return self.http.post(f"/api/runs/{run}/finish", json=body)
