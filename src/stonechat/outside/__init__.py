"""Outside services and devices: their interfaces, and simulated stand-ins that ship with the program."""
