"""Pure computation: no web, no database, no clock, no files. Scalars are accepted wherever arrays are."""
