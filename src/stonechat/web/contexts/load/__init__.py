"""What the pages of Load show."""
