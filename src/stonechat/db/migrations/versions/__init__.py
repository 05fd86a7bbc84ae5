"""Migrations, forward only."""
