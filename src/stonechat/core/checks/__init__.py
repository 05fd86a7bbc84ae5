"""Rules with a reason, a margin and a state."""
