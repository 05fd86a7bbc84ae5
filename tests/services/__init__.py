"""Use cases over a real database."""
