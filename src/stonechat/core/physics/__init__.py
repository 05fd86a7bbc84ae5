"""Air, forces and the power balance."""
