"""The tables of the records: one set for SQLite and PostgreSQL."""

from __future__ import annotations

from sqlalchemy import (
    BigInteger,
    Boolean,
    CheckConstraint,
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    SmallInteger,
    String,
    Table,
    Text,
    UniqueConstraint,
)

# Names of constraints, so that a migration can find them on either database.
NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}
META = MetaData(naming_convention=NAMING)


def _id() -> Column[int]:
    return Column("id", BigInteger, primary_key=True, autoincrement=False)


def _to(name: str, target: str, *, nullable: bool = False, gone: str = "CASCADE") -> Column[int]:
    return Column(name, BigInteger, ForeignKey(f"{target}.id", ondelete=gone), nullable=nullable)


coach = Table(
    "coach",
    META,
    _id(),
    Column("name", String(80), nullable=False),
    Column("initials", String(8), nullable=False),
)

athlete = Table(
    "athlete",
    META,
    _id(),
    Column("name", String(80), nullable=False),
    Column("stage", String(20), nullable=False),
    Column("note", Text, nullable=False),
    Column("away", Boolean(create_constraint=False), nullable=False),
    # When the row changed and by whom, for the bar that says so.
    Column("changed_ms", BigInteger, nullable=False),
    Column("changed_by", String(8), nullable=False),
    Column("version", Integer, nullable=False),
)

body = Table(
    "body",
    META,
    _id(),
    _to("athlete", "athlete"),
    Column("day", Integer, nullable=False),
    Column("document", Text, nullable=False),
    Index("ix_body_athlete_day", "athlete", "day"),
)

setup = Table(
    "setup",
    META,
    _id(),
    Column("hash", String(24), nullable=False, unique=True),
    Column("variation", String(80), nullable=False),
    Column("document", Text, nullable=False),
)

template = Table(
    "template",
    META,
    _id(),
    Column("name", String(80), nullable=False),
    Column("owner", String(8), nullable=False),
    Column("document", Text, nullable=False),
    Column("changed_ms", BigInteger, nullable=False),
    Column("changed_by", String(8), nullable=False),
    Column("version", Integer, nullable=False),
)

plan = Table(
    "plan",
    META,
    _id(),
    _to("athlete", "athlete"),
    _to("template", "template", nullable=True, gone="SET NULL"),
    Column("name", String(80), nullable=False),
    Column("first_day", Integer, nullable=False),
    Column("state", String(12), nullable=False),
    Column("document", Text, nullable=False),
    Column("changed_ms", BigInteger, nullable=False),
    Column("changed_by", String(8), nullable=False),
    Column("version", Integer, nullable=False),
    Index("ix_plan_athlete_first_day", "athlete", "first_day"),
)

session = Table(
    "session",
    META,
    _id(),
    _to("athlete", "athlete"),
    _to("plan", "plan", nullable=True, gone="SET NULL"),
    # Its key within the plan.
    Column("slot", String(24), nullable=False),
    Column("day", Integer, nullable=False),
    Column("order", SmallInteger, nullable=False),
    Column("state", String(12), nullable=False),
    Column("started_ms", BigInteger),
    Column("ended_ms", BigInteger),
    Column("rating", SmallInteger),
    Column("note", Text, nullable=False),
    Column("document", Text, nullable=False),
    Column("changed_ms", BigInteger, nullable=False),
    Column("changed_by", String(8), nullable=False),
    Column("version", Integer, nullable=False),
    CheckConstraint("rating IS NULL OR (rating >= 0 AND rating <= 10)", name="rating"),
    Index("ix_session_athlete_day", "athlete", "day"),
    Index("ix_session_plan", "plan"),
)

entry = Table(
    "entry",
    META,
    _id(),
    _to("athlete", "athlete"),
    _to("session", "session"),
    _to("coach", "coach", nullable=True, gone="SET NULL"),
    _to("replaces", "entry", nullable=True),
    Column("withdrawn", Boolean(create_constraint=False), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("day", Integer, nullable=False),
    Column("item", String(24), nullable=False),
    Column("number", SmallInteger, nullable=False),
    _to("setup", "setup", nullable=True, gone="RESTRICT"),
    Column("drill", String(60), nullable=False),
    Column("case_hash", String(24), nullable=False),
    Column("uncounted", Text, nullable=False),
    Column("style", String(20), nullable=False),
    Column("side", String(8), nullable=False),
    Column("load_kg", Float, nullable=False),
    Column("load_up_kg", Float),
    Column("reps", SmallInteger, nullable=False),
    Column("quarters", SmallInteger, nullable=False),
    Column("seconds", Float),
    Column("tempo", String(40), nullable=False),
    Column("pause_s", Float),
    Column("rest_s", Float),
    Column("effort_left", Float),
    Column("note", Text, nullable=False),
    UniqueConstraint("replaces"),
    Index("ix_entry_athlete_day", "athlete", "day"),
    Index("ix_entry_session", "session"),
)

fault = Table(
    "fault",
    META,
    _to("entry", "entry"),
    Column("code", String(60), nullable=False),
    Column("severity", String(8), nullable=False),
    Index("ix_fault_entry", "entry"),
)

pain = Table(
    "pain",
    META,
    _id(),
    _to("athlete", "athlete"),
    _to("session", "session"),
    _to("entry", "entry", nullable=True),
    Column("day", Integer, nullable=False),
    Column("moment", String(12), nullable=False),
    Column("place", String(20), nullable=False),
    Column("side", String(8), nullable=False),
    Column("score", SmallInteger, nullable=False),
    Column("numb", Boolean(create_constraint=False), nullable=False),
    Column("cleared_by", String(40), nullable=False),
    Column("cleared_day", Integer),
    CheckConstraint("score >= 0 AND score <= 10", name="score"),
    Index("ix_pain_athlete_day", "athlete", "day"),
    Index("ix_pain_entry", "entry"),
    Index("ix_pain_session", "session"),
)

attachment = Table(
    "attachment",
    META,
    _id(),
    _to("entry", "entry"),
    Column("kind", String(20), nullable=False),
    Column("sha256", String(64), nullable=False),
    Column("data", LargeBinary, nullable=False),
    Index("ix_attachment_entry", "entry"),
)

# What the coach decided where it differs from the advice.
decision = Table(
    "decision",
    META,
    _id(),
    _to("athlete", "athlete"),
    _to("session", "session", nullable=True),
    Column("day", Integer, nullable=False),
    Column("item", String(24), nullable=False),
    Column("variation", String(80), nullable=False),
    Column("advised_kg", Float),
    Column("taken_kg", Float),
    Column("words", Text, nullable=False),
    Column("by", String(8), nullable=False),
    Index("ix_decision_athlete_day", "athlete", "day"),
)

# Who was erased: a random number each athlete's id is hashed with, and the day. Nothing else of them stays.
erased = Table(
    "erased",
    META,
    Column("mark", String(64), primary_key=True),
    Column("salt", String(32), nullable=False),
    Column("day", Integer, nullable=False),
)

# A cache: may be emptied at any time.
exposure = Table(
    "exposure",
    META,
    Column("case_hash", String(24), primary_key=True),
    Column("model", Integer, primary_key=True, autoincrement=False),
    Column("seconds", Float, nullable=False),
    Column("problem", Text, nullable=False),
    *(
        Column(f"{joint}_{kind}", Float, nullable=False)
        for joint in ("hip_left", "hip_right", "knee_left", "knee_right", "back")
        for kind in ("extensor", "flexor", "peak")
    ),
)

# Tables whose rows are a person's, parents first.
OF_A_PERSON = (athlete, body, plan, session, entry, fault, pain, attachment, decision)
JOINT_COLUMNS = ("hip_left", "hip_right", "knee_left", "knee_right", "back")
