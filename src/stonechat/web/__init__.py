"""Pages and fragments over HTTP."""
