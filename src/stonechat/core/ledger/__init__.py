"""Minutes by cause and prices."""
