"""Kit: things, shelf, tables brought in, scales."""
