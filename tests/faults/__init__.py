"""Faults from outside: what a program meets on a bad day."""
