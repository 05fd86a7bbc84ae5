"""What people may type, with names, units, limits and sentences."""
