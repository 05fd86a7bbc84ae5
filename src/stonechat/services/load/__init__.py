"""Load: moving by hand, what a place costs, packing and its proposals."""
