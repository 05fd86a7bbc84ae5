"""Packings of kits that the demo does not have, held against what a seasoned rider would expect."""
