"""Journeys in the real browser."""
