"""Tables, sessions and queries. Rows do not leave this package and the services."""
