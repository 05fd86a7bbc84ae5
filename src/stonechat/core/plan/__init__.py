"""The plan as plain values, and the whole chain that evaluates one variant of it."""
