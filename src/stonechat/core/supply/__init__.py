"""Water and food for each leg."""
