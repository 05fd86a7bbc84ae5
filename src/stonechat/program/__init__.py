"""A running program: the web server on its socket, the worker beside it, and whoever looks after them."""
