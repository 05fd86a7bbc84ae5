"""Small numerical helpers that every part of the core may use."""
