"""Lists and cards as PDF."""
