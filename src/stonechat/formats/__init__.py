"""Bytes in, core objects out, and back. Each reader states its limits."""
