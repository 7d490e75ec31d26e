"""What must be proved of a ring, and what the bench can show of it."""
