"""Endpoints, one file per room."""
