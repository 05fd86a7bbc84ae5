"""Charge: what electric things draw and hold, and every battery by the clock."""
