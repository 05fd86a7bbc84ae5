"""Runs background work."""
