"""What can fail on the way, what answers it, and what each spare is worth."""
