"""Twelve plans with the figures that the program gave for them; whoever changes one says why."""
