"""What happened on the way: notes by km and clock, beside what was planned."""
