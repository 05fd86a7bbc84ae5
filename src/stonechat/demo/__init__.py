"""The made-up race, bike and kit that the application shows."""
