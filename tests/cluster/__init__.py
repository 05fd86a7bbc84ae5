"""The private database cluster, whole and broken."""
