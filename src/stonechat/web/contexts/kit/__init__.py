"""What the pages of Kit show."""
