"""Alembic migrations, run under the owner's account."""
