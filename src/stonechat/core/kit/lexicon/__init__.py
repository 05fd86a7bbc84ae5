"""What things are: kinds with their usual words and figures, and how a name is taken for one."""
