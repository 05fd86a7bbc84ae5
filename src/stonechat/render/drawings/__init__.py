"""Core objects to frozen scenes in drawing units."""
