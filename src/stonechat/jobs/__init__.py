"""Background work on the database's own queue."""
