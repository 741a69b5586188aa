"""The tables. What is in INSERT_ONLY is never updated or deleted by the application; its account cannot."""

from sqlalchemy import (
    BINARY,
    BigInteger,
    Boolean,
    Column,
    Date,
    DateTime,
    Double,
    FetchedValue,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    SmallInteger,
    String,
    Table,
    UniqueConstraint,
    Uuid,
)
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB, LONGTEXT, MEDIUMTEXT

metadata = MetaData()

Moment = DateTime().with_variant(DATETIME(fsp=3), "mysql", "mariadb")
Content = MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")
"""Exact bytes of canonical JSON."""

shop = Table(
    "shop",
    metadata,
    Column("id", Integer, primary_key=True, autoincrement=False),
    Column("name", String(80), nullable=False),
    Column("time_zone", String(64), nullable=False),
    Column("policy", Content, nullable=False),
    Column("settings", Content, nullable=False),
)
people = Table(
    "people",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("name", String(80), nullable=False, unique=True),
    Column("roles", String(64), nullable=False, server_default="mechanic"),
    Column("salt", BINARY(16), nullable=True),
    Column("left_at", Moment, nullable=True),
    Column("must_change", Boolean(create_constraint=False), nullable=False, server_default="0"),
)
"""`salt` proves a name against its sealed commitment; a name from before there were any has none until the next start."""
pins = Table(
    "pins",
    metadata,
    Column("person_id", Uuid, ForeignKey("people.id"), primary_key=True),
    Column("pin_hash", String(200), nullable=False),
)
"""Apart from the people, so that these can be copied elsewhere without them."""
pin_attempts = Table(
    "pin_attempts",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("person_id", Uuid, ForeignKey("people.id"), nullable=False),
    Column("at", Moment, nullable=False),
    Column("good", Boolean(create_constraint=False), nullable=False),
    Column("number", BigInteger, nullable=False, server_default=FetchedValue()),
    Column("device_id", Uuid, nullable=True),
    UniqueConstraint("number", name="pin_attempts_number"),
    Index("pin_attempts_person", "person_id", "number"),
    Index("pin_attempts_where", "person_id", "device_id", "number"),
)
"""`device_id`: where the PIN was tried; none for a tablet that nobody introduced."""
devices = Table(
    "devices",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("name", String(80), nullable=False),
    Column("first_seen", Moment, nullable=False),
    Column("secret_hash", BINARY(32), nullable=True),
    Column("lost_at", Moment, nullable=True),
    UniqueConstraint("secret_hash", name="devices_secret"),
)
"""A tablet shows its secret; one without any was seen before tablets were introduced."""
sessions = Table(
    "sessions",
    metadata,
    Column("token_hash", BINARY(32), primary_key=True),
    Column("person_id", Uuid, ForeignKey("people.id"), nullable=False),
    Column("device_id", Uuid, ForeignKey("devices.id"), nullable=False),
    Column("expires_at", Moment, nullable=False),
    Column("key_id", Uuid, nullable=True),
    Index("sessions_person", "person_id"),
)
press_keys = Table(
    "press_keys",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("public", BINARY(65), nullable=False),
    Column("person_id", Uuid, ForeignKey("people.id"), nullable=False),
    Column("device_id", Uuid, ForeignKey("devices.id"), nullable=False),
    Column("until", Moment, nullable=False),
    Index("press_keys_until", "until"),
)
"""The public keys of sessions. They stay after the session, for what was pressed in it and comes late; `until`: when it ended."""
feeds = Table(
    "feeds",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("key_hash", BINARY(32), nullable=False),
    Column("person_id", Uuid, ForeignKey("people.id"), nullable=False),
    Column("made_at", Moment, nullable=False),
)
"""Addresses at which another program reads what is due. The key of a feed gives access to nothing else."""
machines = Table(
    "machines",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("fleet_number", String(40), nullable=False, unique=True),
    Column("content", Content, nullable=False),
)
tools = Table(
    "tools",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("name", String(80), nullable=False, unique=True),
    Column("kind", String(16), nullable=False),
    Column("content", Content, nullable=False),
)
spec_revisions = Table(
    "spec_revisions",
    metadata,
    Column("spec_id", Uuid, primary_key=True),
    Column("revision", Integer, primary_key=True, autoincrement=False),
    Column("digest", String(64), nullable=False),
    Column("content", Content, nullable=False),
)
jobs = Table(
    "jobs",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("machine_id", Uuid, ForeignKey("machines.id"), nullable=False),
    Column("opened_at", Moment, nullable=False),
    Index("jobs_machine_opened", "machine_id", "opened_at"),
)
runs = Table(
    "runs",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("job_id", Uuid, ForeignKey("jobs.id"), nullable=False),
    Column("machine_id", Uuid, ForeignKey("machines.id"), nullable=False),
    Column("position_key", String(130), nullable=False),
    Column("joint", String(60), nullable=False),
    Column("spec_id", Uuid, nullable=False),
    Column("spec_revision", Integer, nullable=False),
    Column("procedure", String(60), nullable=False),
    Column("parent_id", Uuid, ForeignKey("runs.id"), nullable=True),
    Column("started_at", Moment, nullable=False),
    Column("number", BigInteger, nullable=False, server_default=FetchedValue()),
    UniqueConstraint("number", name="runs_number"),
    Index("runs_joint", "joint"),
    Index("runs_spec", "spec_id", "spec_revision"),
    Index("runs_place_number", "machine_id", "position_key", "joint", "number"),
)
"""`number` counts up (AUTO_INCREMENT): runs are in its order, whatever a clock says."""
open_places = Table(
    "open_places",
    metadata,
    Column("machine_id", Uuid, primary_key=True),
    Column("position_key", String(130), primary_key=True),
    Column("joint", String(60), primary_key=True),
    Column("run_id", Uuid, nullable=False),
    UniqueConstraint("run_id", name="open_places_run"),
)
"""The open run of a place: inserted when it starts, deleted when it ends."""
run_now = Table(
    "run_now",
    metadata,
    Column("run_id", Uuid, primary_key=True),
    Column("standing", String(16), nullable=True),
    Column("ended_at", Moment, nullable=True),
    Column("content", Content, nullable=False),
    Index("run_now_standing", "standing"),
    Index("run_now_ended", "ended_at"),
)
"""A summary of each run, derived from its entries. `./tight rebuild` derives all of them again. An open run has no standing."""
run_terms = Table(
    "run_terms",
    metadata,
    Column("term", String(120), primary_key=True),
    Column("run_id", Uuid, primary_key=True),
    Index("run_terms_run", "run_id"),
)
"""By what a run is found besides its place: `person:…`, `tool:…`, `part:…`. Derived as `run_now` is."""
run_stale = Table(
    "run_stale",
    metadata,
    Column("run_id", Uuid, primary_key=True),
    Column("mark", Uuid, nullable=False),
)
"""Runs whose summary is out of date; `mark` changes each time that a run is marked."""
places_now = Table(
    "places_now",
    metadata,
    Column("machine_id", Uuid, primary_key=True),
    Column("position_key", String(130), primary_key=True),
    Column("joint", String(60), primary_key=True),
    Column("run_id", Uuid, nullable=False),
    Column("needs", Boolean(create_constraint=False), nullable=False),
    Column("root_id", Uuid, nullable=True),
    Index("places_now_run", "run_id"),
    Index("places_now_needs", "needs"),
    Index("places_now_root", "root_id"),
)
"""How a place stands by its newest run: whether it needs somebody, and the run whose follow-ups are to come. Derived as `run_now` is."""
turns = Table("turns", metadata, Column("name", String(60), primary_key=True), Column("number", BigInteger, nullable=False))
"""What must not happen side by side: whoever does it counts up the number first."""
told_now = Table(
    "told_now",
    metadata,
    Column("stream", Uuid, primary_key=True),
    Column("subject", String(16), nullable=False),
    Column("content", Content, nullable=False),
)
"""What the stream of a machine, a spec, a tool or a person has told, in short. Derived as `run_now` is."""
told_stale = Table(
    "told_stale",
    metadata,
    Column("stream", Uuid, primary_key=True),
    Column("subject", String(16), nullable=False),
    Column("mark", Uuid, nullable=False),
)
"""Streams of which that is out of date; `mark` as in `run_stale`."""
notices_now = Table(
    "notices_now",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("stream", Uuid, nullable=False),
    Column("at", Moment, nullable=False),
    Column("settled", Boolean(create_constraint=False), nullable=False),
    Column("mark", Uuid, nullable=False),
    Index("notices_now_settled", "settled", "at"),
    Index("notices_now_stream", "stream", "at"),
)
"""Every notice, and whether all its places were looked at; `mark` changes each time that this is to be asked again."""
ledger = Table(
    "ledger",
    metadata,
    Column("stream", Uuid, primary_key=True),
    Column("seq", Integer, primary_key=True, autoincrement=False),
    Column("id", Uuid, nullable=False),
    Column("subject", String(16), nullable=False),
    Column("kind", String(24), nullable=False),
    Column("at_server", Moment, nullable=False),
    Column("tool", Uuid, nullable=True),
    Column("body", Content, nullable=False),
    Column("seal", BINARY(32), nullable=False),
    Column("mark", BINARY(32), nullable=True),
    UniqueConstraint("id", name="ledger_id"),
    Index("ledger_kind_at", "subject", "kind", "at_server"),
    Index("ledger_tool", "tool", "at_server", "stream"),
)
"""`tool` says again what the body of a pull says: the first tool that it was made with. `mark`: see `core/proof/keys.py`."""
log_leaves = Table(
    "log_leaves",
    metadata,
    Column("place", BigInteger, primary_key=True, autoincrement=False),
    Column("stream", Uuid, nullable=False),
    Column("seq", Integer, nullable=False),
    Column("seal", BINARY(32), nullable=False),
    Index("log_leaves_stream", "stream", "seq"),
)
"""The log that checkpoints stand over: the newest entry of each stream that moved since the checkpoint before."""
log_nodes = Table(
    "log_nodes",
    metadata,
    Column("level", SmallInteger, primary_key=True, autoincrement=False),
    Column("place", BigInteger, primary_key=True, autoincrement=False),
    Column("hash", BINARY(32), nullable=False),
)
"""The complete parts of the tree over the log (`core/proof/trees.py`)."""
checkpoints = Table(
    "checkpoints",
    metadata,
    Column("number", Integer, primary_key=True, autoincrement=False),
    Column("size", BigInteger, nullable=False),
    Column("at", Moment, nullable=False),
    Column("public_key", String(200), nullable=False),
    Column("note", Content, nullable=False),
)
verifications = Table(
    "verifications",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("at", Moment, nullable=False),
    Column("content", Content, nullable=False),
    Index("verifications_at", "at"),
)
"""When the ledger was verified, and what was found."""
attachments = Table(
    "attachments",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("digest", String(64), nullable=False),
    Column("name", String(120), nullable=False),
    Column("media_type", String(40), nullable=False),
    Column("at", Moment, nullable=False),
    Column("content", LONGBLOB, nullable=False),
)
"""Papers and photos: outside the sealed entries, which hold their ids and digests, so that they can be erased."""
practised = Table(
    "practised",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("person_id", Uuid, ForeignKey("people.id"), nullable=False),
    Column("at", Moment, nullable=False),
    Column("drill", String(16), nullable=False),
    Column("passed_on", Date, nullable=True),
    Column("content", Content, nullable=False),
    Index("practised_person", "person_id", "at"),
)
"""What each person practised; `passed_on` is the day if nothing was missed: theirs alone, erased with their name, never in the ledger."""
finding = Table(
    "finding",
    metadata,
    Column("spec_id", Uuid, primary_key=True),
    Column("revision", Integer, primary_key=True, autoincrement=False),
    Column("ordinal", Integer, primary_key=True, autoincrement=False),
    Column("standing", SmallInteger, nullable=False),
    *(Column(name, BigInteger, nullable=False) for name in ("who", "what", "fasteners", "notes", "source")),
    Column("year_from", SmallInteger, nullable=False),
    Column("year_to", SmallInteger, nullable=False),
    Column("figures", Content, nullable=False),
    Column("trust", String(40), nullable=False),
    Column("low_nm", Double, nullable=True),
    Column("high_nm", Double, nullable=True),
    Column("applies", Content, nullable=False),
    Index("finding_who_what", "who", "what", "fasteners", "standing"),
    Index("finding_what", "what", "standing", "who"),
    Index("finding_what_fasteners", "what", "fasteners", "standing"),
    Index("finding_fasteners", "fasteners", "standing"),
    Index("finding_notes", "notes", "standing"),
    Index("finding_who_notes", "who", "notes", "standing"),
    Index("finding_who_source", "who", "source", "standing"),
    Index("finding_source", "source", "standing"),
    Index("finding_standing", "standing", "year_from"),
)
"""What a search reads: derived from spec_revisions and the ledger, and made again from them when its form changes."""
finding_entries = Table(
    "finding_entries",
    metadata,
    Column("dimension", String(12), primary_key=True),
    Column("id", BigInteger, primary_key=True, autoincrement=False),
    Column("version", Integer, nullable=False),
    Column("content", Content, nullable=False),
    Index("finding_entries_version", "version"),
)
finding_texts = Table(
    "finding_texts",
    metadata,
    Column("word", String(40), primary_key=True),
    Column("text", BigInteger, primary_key=True, autoincrement=False),
)
finding_state = Table(
    "finding_state",
    metadata,
    Column("id", Integer, primary_key=True, autoincrement=False),
    Column("version", Integer, nullable=False),
    Column("form", Integer, nullable=False),
)
backups = Table(
    "backups",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("at", Moment, nullable=False),
    Column("file_name", String(255), nullable=False),
    Column("entries", Integer, nullable=False),
)

pairings = Table(
    "pairings",
    metadata,
    Column("code", String(8), primary_key=True),
    Column("run_id", Uuid, nullable=False),
    Column("person_id", Uuid, nullable=False),
    Column("device_id", Uuid, nullable=False),
    Column("command", Uuid, nullable=False),
    Column("until", Moment, nullable=False),
    Column("sender", Uuid, nullable=True),
    UniqueConstraint("run_id", name="pairings_run"),
)
"""`sender` is the instrument that used the code first, or the run itself for a simulated one; no other may use it then."""
instruments = Table(
    "instruments",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("name", String(80), nullable=False, unique=True),
    Column("key_hash", BINARY(32), nullable=False),
    Column("registered_at", Moment, nullable=False),
    Column("retired_at", Moment, nullable=True),
)
imports = Table(
    "imports",
    metadata,
    Column("id", Uuid, primary_key=True),
    Column("at", Moment, nullable=False),
    Column("touched_at", Moment, nullable=False),
    Column("state", String(8), nullable=False),
    Column("content", Content, nullable=False),
)
import_pieces = Table(
    "import_pieces",
    metadata,
    Column("import_id", Uuid, ForeignKey("imports.id", ondelete="CASCADE"), primary_key=True),
    Column("place", Integer, primary_key=True, autoincrement=False),
    Column("content", LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
)
"""The accepted specs of a file, a batch in each piece; in the database, so that any server process can bring them in."""

INSERT_ONLY = (ledger, spec_revisions, runs, jobs, log_leaves, log_nodes, checkpoints, verifications)
READ_ONLY = (backups,)
"""Written by the owner's account alone."""
