"""The bike, its carriers and where they sit."""
