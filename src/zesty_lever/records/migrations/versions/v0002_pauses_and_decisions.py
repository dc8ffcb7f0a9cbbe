"""Pauses of paused sets, and what a coach decided against the advice."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """A column more on ``entry`` (rebuilt on SQLite, to stand in its place), and the table ``decision``."""
    with op.batch_alter_table("entry", recreate="auto") as batch:
        batch.add_column(sa.Column("pause_s", sa.Float(), nullable=True))
    op.create_table(
        "decision",
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("athlete", sa.BigInteger(), nullable=False),
        sa.Column("session", sa.BigInteger(), nullable=True),
        sa.Column("day", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(length=24), nullable=False),
        sa.Column("variation", sa.String(length=80), nullable=False),
        sa.Column("advised_kg", sa.Float(), nullable=True),
        sa.Column("taken_kg", sa.Float(), nullable=True),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("by", sa.String(length=8), nullable=False),
        sa.ForeignKeyConstraint(
            ["athlete"],
            ["athlete.id"],
            name=op.f("fk_decision_athlete_athlete"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["session"],
            ["session.id"],
            name=op.f("fk_decision_session_session"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_decision")),
    )
    op.create_index("ix_decision_athlete_day", "decision", ["athlete", "day"])
