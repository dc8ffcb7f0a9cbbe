"""The first schema."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Make every table."""
    op.create_table(
        "athlete",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("stage", sa.String(length=20), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("away", sa.Boolean(), nullable=False),
        sa.Column("changed_ms", sa.BigInteger(), nullable=False),
        sa.Column("changed_by", sa.String(length=8), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_athlete")),
    )
    op.create_table(
        "coach",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("initials", sa.String(length=8), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_coach")),
    )
    op.create_table(
        "erased",
        sa.Column("mark", sa.String(length=64), nullable=False),
        sa.Column("salt", sa.String(length=32), nullable=False),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("mark", name=op.f("pk_erased")),
    )
    op.create_table(
        "exposure",
        sa.Column("case_hash", sa.String(length=24), nullable=False),
        sa.Column("model", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("seconds", sa.Float(), nullable=False),
        sa.Column("problem", sa.Text(), nullable=False),
        sa.Column("hip_left_extensor", sa.Float(), nullable=False),
        sa.Column("hip_left_flexor", sa.Float(), nullable=False),
        sa.Column("hip_left_peak", sa.Float(), nullable=False),
        sa.Column("hip_right_extensor", sa.Float(), nullable=False),
        sa.Column("hip_right_flexor", sa.Float(), nullable=False),
        sa.Column("hip_right_peak", sa.Float(), nullable=False),
        sa.Column("knee_left_extensor", sa.Float(), nullable=False),
        sa.Column("knee_left_flexor", sa.Float(), nullable=False),
        sa.Column("knee_left_peak", sa.Float(), nullable=False),
        sa.Column("knee_right_extensor", sa.Float(), nullable=False),
        sa.Column("knee_right_flexor", sa.Float(), nullable=False),
        sa.Column("knee_right_peak", sa.Float(), nullable=False),
        sa.Column("back_extensor", sa.Float(), nullable=False),
        sa.Column("back_flexor", sa.Float(), nullable=False),
        sa.Column("back_peak", sa.Float(), nullable=False),
        sa.PrimaryKeyConstraint("case_hash", "model", name=op.f("pk_exposure")),
    )
    op.create_table(
        "setup",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("hash", sa.String(length=24), nullable=False),
        sa.Column("variation", sa.String(length=80), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_setup")),
        sa.UniqueConstraint("hash", name=op.f("uq_setup_hash")),
    )
    op.create_table(
        "template",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("owner", sa.String(length=8), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("changed_ms", sa.BigInteger(), nullable=False),
        sa.Column("changed_by", sa.String(length=8), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_template")),
    )
    op.create_table(
        "body",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("athlete", sa.BigInteger(), nullable=False),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["athlete"], ["athlete.id"], name=op.f("fk_body_athlete_athlete"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_body")),
    )
    op.create_index("ix_body_athlete_day", "body", ["athlete", "day"], unique=False)
    op.create_table(
        "plan",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("athlete", sa.BigInteger(), nullable=False),
        sa.Column("template", sa.BigInteger(), nullable=True),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("first_day", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(length=12), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("changed_ms", sa.BigInteger(), nullable=False),
        sa.Column("changed_by", sa.String(length=8), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["athlete"], ["athlete.id"], name=op.f("fk_plan_athlete_athlete"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["template"],
            ["template.id"],
            name=op.f("fk_plan_template_template"),
            ondelete="SET NULL",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan")),
    )
    op.create_index("ix_plan_athlete_first_day", "plan", ["athlete", "first_day"], unique=False)
    op.create_table(
        "session",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("athlete", sa.BigInteger(), nullable=False),
        sa.Column("plan", sa.BigInteger(), nullable=True),
        sa.Column("slot", sa.String(length=24), nullable=False),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("order", sa.SmallInteger(), nullable=False),
        sa.Column("state", sa.String(length=12), nullable=False),
        sa.Column("started_ms", sa.BigInteger(), nullable=True),
        sa.Column("ended_ms", sa.BigInteger(), nullable=True),
        sa.Column("rating", sa.SmallInteger(), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("changed_ms", sa.BigInteger(), nullable=False),
        sa.Column("changed_by", sa.String(length=8), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.CheckConstraint(
            "rating IS NULL OR (rating >= 0 AND rating <= 10)", name=op.f("ck_session_rating")
        ),
        sa.ForeignKeyConstraint(
            ["athlete"], ["athlete.id"], name=op.f("fk_session_athlete_athlete"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["plan"], ["plan.id"], name=op.f("fk_session_plan_plan"), ondelete="SET NULL"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_session")),
    )
    op.create_index("ix_session_athlete_day", "session", ["athlete", "day"], unique=False)
    op.create_index("ix_session_plan", "session", ["plan"], unique=False)
    op.create_table(
        "entry",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("athlete", sa.BigInteger(), nullable=False),
        sa.Column("session", sa.BigInteger(), nullable=False),
        sa.Column("coach", sa.BigInteger(), nullable=True),
        sa.Column("replaces", sa.BigInteger(), nullable=True),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
        sa.Column("at_ms", sa.BigInteger(), nullable=False),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(length=24), nullable=False),
        sa.Column("number", sa.SmallInteger(), nullable=False),
        sa.Column("setup", sa.BigInteger(), nullable=True),
        sa.Column("drill", sa.String(length=60), nullable=False),
        sa.Column("case_hash", sa.String(length=24), nullable=False),
        sa.Column("uncounted", sa.Text(), nullable=False),
        sa.Column("style", sa.String(length=20), nullable=False),
        sa.Column("side", sa.String(length=8), nullable=False),
        sa.Column("load_kg", sa.Float(), nullable=False),
        sa.Column("load_up_kg", sa.Float(), nullable=True),
        sa.Column("reps", sa.SmallInteger(), nullable=False),
        sa.Column("quarters", sa.SmallInteger(), nullable=False),
        sa.Column("seconds", sa.Float(), nullable=True),
        sa.Column("tempo", sa.String(length=40), nullable=False),
        sa.Column("rest_s", sa.Float(), nullable=True),
        sa.Column("effort_left", sa.Float(), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["athlete"], ["athlete.id"], name=op.f("fk_entry_athlete_athlete"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["coach"], ["coach.id"], name=op.f("fk_entry_coach_coach"), ondelete="SET NULL"
        ),
        sa.ForeignKeyConstraint(
            ["replaces"], ["entry.id"], name=op.f("fk_entry_replaces_entry"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["session"], ["session.id"], name=op.f("fk_entry_session_session"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["setup"], ["setup.id"], name=op.f("fk_entry_setup_setup"), ondelete="RESTRICT"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_entry")),
        sa.UniqueConstraint("replaces", name=op.f("uq_entry_replaces")),
    )
    op.create_index("ix_entry_athlete_day", "entry", ["athlete", "day"], unique=False)
    op.create_index("ix_entry_session", "entry", ["session"], unique=False)
    op.create_table(
        "attachment",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("entry", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["entry"], ["entry.id"], name=op.f("fk_attachment_entry_entry"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_attachment")),
    )
    op.create_index("ix_attachment_entry", "attachment", ["entry"], unique=False)
    op.create_table(
        "fault",
        sa.Column("entry", sa.BigInteger(), nullable=False),
        sa.Column("code", sa.String(length=60), nullable=False),
        sa.Column("severity", sa.String(length=8), nullable=False),
        sa.ForeignKeyConstraint(
            ["entry"], ["entry.id"], name=op.f("fk_fault_entry_entry"), ondelete="CASCADE"
        ),
    )
    op.create_index("ix_fault_entry", "fault", ["entry"], unique=False)
    op.create_table(
        "pain",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("athlete", sa.BigInteger(), nullable=False),
        sa.Column("session", sa.BigInteger(), nullable=False),
        sa.Column("entry", sa.BigInteger(), nullable=True),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("moment", sa.String(length=12), nullable=False),
        sa.Column("place", sa.String(length=20), nullable=False),
        sa.Column("side", sa.String(length=8), nullable=False),
        sa.Column("score", sa.SmallInteger(), nullable=False),
        sa.Column("numb", sa.Boolean(), nullable=False),
        sa.Column("cleared_by", sa.String(length=40), nullable=False),
        sa.Column("cleared_day", sa.Integer(), nullable=True),
        sa.CheckConstraint("score >= 0 AND score <= 10", name=op.f("ck_pain_score")),
        sa.ForeignKeyConstraint(
            ["athlete"], ["athlete.id"], name=op.f("fk_pain_athlete_athlete"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["entry"], ["entry.id"], name=op.f("fk_pain_entry_entry"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["session"], ["session.id"], name=op.f("fk_pain_session_session"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pain")),
    )
    op.create_index("ix_pain_athlete_day", "pain", ["athlete", "day"], unique=False)
    op.create_index("ix_pain_entry", "pain", ["entry"], unique=False)
    op.create_index("ix_pain_session", "pain", ["session"], unique=False)
