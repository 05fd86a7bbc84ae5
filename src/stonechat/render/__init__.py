"""How results look. Never sees a session or a request."""
